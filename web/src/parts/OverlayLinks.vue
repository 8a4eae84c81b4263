<script setup lang="ts">
import { ref } from 'vue'
import { api, got } from '@/api/client'
import { useLive } from '@/composables/useLive'
import { covered } from '@/composables/useLook'
import { attempt, say } from '@/composables/useSay'

const live = useLive()
const links = ref<Record<string, string>>({})

async function linkOf(overlay_id: string): Promise<string> {
  const link = await got(api.POST('/api/overlays/{overlay_id}/link', { params: { path: { overlay_id } } }))
  return location.origin + link.path
}

async function show(id: string): Promise<void> {
  links.value[id] = await linkOf(id)
}

async function copy(id: string): Promise<void> {
  await navigator.clipboard.writeText(await linkOf(id))
  say('The link is on the clipboard. Paste it as a browser source.', 'fine')
}

async function renew(overlay_id: string): Promise<void> {
  await got(api.POST('/api/overlays/{overlay_id}/renew', { params: { path: { overlay_id } } }))
  delete links.value[overlay_id]
  say('The link is new; the old one leads nowhere now.', 'fine')
}
</script>

<template>
  <div>
    <h2>Overlays</h2>
    <p class="small soft">
      Put the link of an overlay into your broadcasting program as a page. Whoever has a link can see it.
    </p>
    <div v-for="overlay in live.state?.overlays ?? []" :key="overlay.id" class="overlay">
      <div class="row">
        <strong class="grow">{{ overlay.name }}</strong>
        <span class="soft small">{{ overlay.pages }} connected</span>
      </div>
      <code class="link small cut-off">{{
        !covered && links[overlay.id] ? links[overlay.id] : '•••• covered ••••'
      }}</code>
      <div class="row">
        <button class="btn tiny main" @click="attempt(() => copy(overlay.id))">Copy link</button>
        <button
          class="btn tiny"
          :disabled="covered"
          :title="covered ? 'Uncover secrets in the bar above first' : ''"
          @click="attempt(() => show(overlay.id))"
        >
          Show
        </button>
        <button class="btn tiny" @click="attempt(() => renew(overlay.id))">Renew</button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.overlay {
  display: grid;
  gap: 8px;
  padding-top: 8px;
  border-top: 1px solid var(--line);
}

.link {
  display: block;
  background: var(--ground);
  border-radius: 6px;
  padding: 4px 8px;
}
</style>
