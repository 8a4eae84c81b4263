<script setup lang="ts">
/** The overlays in short: which are connected, and their links to copy. Everything else is on the Rig page. */
import { useLive } from '@/composables/useLive'
import OverlayLink from './OverlayLink.vue'

const live = useLive()
</script>

<template>
  <div>
    <h2>Overlays</h2>
    <p class="small soft">
      Put the link of an overlay into your broadcasting program as a page. Whoever has a link can see it.
    </p>
    <OverlayLink v-for="overlay in live.state?.overlays ?? []" :key="overlay.id" :overlay="overlay" />
    <RouterLink to="/rig" class="small">Sizes, sound and more overlays on the rig</RouterLink>
  </div>
</template>
