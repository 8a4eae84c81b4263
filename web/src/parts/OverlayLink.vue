<script setup lang="ts">
import { covered } from '@/composables/useLook'
import { useOverlayLink } from '@/composables/useOverlayLink'
import { attempt } from '@/composables/useSay'

const props = defineProps<{ overlay: { id: string; name: string; pages: number; lags: (number | null)[] } }>()
const { link, show, copy, renew } = useOverlayLink(() => props.overlay.id)
</script>

<template>
  <div class="overlay">
    <div class="row">
      <strong class="grow">{{ overlay.name }}</strong>
      <span class="soft small"
        >{{ overlay.pages }} connected{{
          overlay.lags.some((lag) => lag !== null)
            ? `, ${overlay.lags.filter((lag) => lag !== null).join(' and ')} ms`
            : ''
        }}</span
      >
    </div>
    <code class="link small cut-off">{{ !covered && link ? link : '•••• covered ••••' }}</code>
    <div class="row">
      <button class="btn tiny main" @click="attempt(() => copy())">Copy link</button>
      <button
        class="btn tiny"
        :disabled="covered"
        :title="covered ? 'Uncover secrets first' : ''"
        @click="attempt(show)"
      >
        Show
      </button>
      <button class="btn tiny" @click="attempt(renew)">Renew</button>
    </div>
  </div>
</template>

<style scoped>
.overlay {
  display: grid;
  gap: 8px;
  padding: 8px 0;
  border-top: 1px solid var(--line);
}

.link {
  display: block;
  background: var(--ground);
  border-radius: 6px;
  padding: 4px 8px;
}
</style>
