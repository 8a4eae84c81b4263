<script setup lang="ts">
/** How often an audience calls what, as draggable bars: of rewards, and of chat cues. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { byKey, slider, useHandle } from '@/composables/useHandle'

const props = defineProps<{ book: Schemas['Book']; shares: Record<string, number> }>()
const emit = defineEmits<{ change: [shares: Record<string, number>] }>()
const FULL = 10

const rows = computed(() => {
  const called = new Set(
    props.book.cues.flatMap((cue) =>
      cue.calls.flatMap((call) => (call.kind === 'reward' ? [call.reward] : [])),
    ),
  )
  return [
    ...props.book.rewards.filter((one) => called.has(one.id)).map((one) => ({ id: one.id, name: one.title })),
    ...props.book.cues
      .filter((cue) => cue.calls.some((call) => call.kind === 'chat'))
      .map((cue) => ({ id: `cue/${cue.id}`, name: `${cue.name} (chat)` })),
  ]
})
type Like = { id: string; share: number }
const { held, drag } = useHandle<Like>(({ id, share }) => emit('change', { ...props.shares, [id]: share }))
const shareOf = (id: string): number =>
  Math.min(FULL, held.value?.id === id ? held.value.share : (props.shares[id] ?? 0))
const fitting = (share: number): number => Math.min(FULL, Math.max(0, Math.round(share * 2) / 2))

function take(event: PointerEvent, id: string): void {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const at = (one: PointerEvent): Like => ({
    id,
    share: fitting(((one.clientX - box.left) / box.width) * FULL),
  })
  held.value = at(event)
  drag(event, at)
}
function key(event: KeyboardEvent, id: string): void {
  const by = (share: number) => () =>
    emit('change', { ...props.shares, [id]: fitting((props.shares[id] ?? 0) + share) })
  byKey(event, { ArrowLeft: by(-0.5), ArrowRight: by(0.5) })
}
</script>

<template>
  <ul class="likes">
    <li v-for="row in rows" :key="row.id">
      <span class="name cut-off small" :title="row.name">{{ row.name }}</span>
      <span
        class="track"
        v-bind="slider(row.name, shareOf(row.id), 0, FULL)"
        @pointerdown.prevent="take($event, row.id)"
        @keydown="key($event, row.id)"
      >
        <span class="fill" :style="{ width: `${(shareOf(row.id) / FULL) * 100}%` }"></span>
      </span>
    </li>
  </ul>
</template>

<style scoped>
.likes {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(210px, 1fr));
  gap: 4px 16px;
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: 110px 1fr;
  align-items: center;
  gap: 8px;
  min-width: 0;
}

.track {
  height: 18px;
  background: var(--ground);
  border-radius: 4px;
  overflow: hidden;
  cursor: ew-resize;
  touch-action: none;
}

.fill {
  display: block;
  height: 100%;
  background: var(--marmalade);
}
</style>
