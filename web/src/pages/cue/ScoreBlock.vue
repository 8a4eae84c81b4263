<script setup lang="ts">
/** One beat on the score: drag it in time, stretch its end. Natural lengths are solid, a range has a soft end. */
import { computed, ref } from 'vue'
import { useBook } from '@/composables/useBook'
import type { LooseBeat } from '@/composables/useCueDraft'
import { sayDuration } from '@/logic/duration'
import { markOf } from '@/parts/marks'
import WaveForm from '@/parts/WaveForm.vue'
import { useDraft } from './draft'

const props = defineProps<{ beat: LooseBeat; level: number; perMs: number }>()
const draft = useDraft()
const book = useBook()
const drag = ref<{ shift: number; stretch: number } | null>(null)

const span = computed(() => draft.spans.value.get(props.beat.id))
const start = computed(() => span.value?.start ?? 0)
const end = computed(() => span.value?.end ?? start.value)
const latest = computed(() =>
  span.value ? (span.value.end_latest ?? Math.max(end.value, start.value) + 5000) : end.value,
)
const open = computed(() => span.value?.end_latest === null)
const media = computed(() =>
  book.mediaById.get((props.beat.media as { file?: string } | undefined)?.file ?? ''),
)

const snag = computed(() => draft.snags.value.find((s) => s.beat === props.beat.id))
const left = computed(() => start.value * props.perMs + (drag.value?.shift ?? 0))
const solid = computed(() =>
  Math.max(8, (end.value - start.value) * props.perMs + (drag.value?.stretch ?? 0)),
)
const soft = computed(() => Math.max(0, (latest.value - end.value) * props.perMs))
const says = computed(() => {
  const length = props.beat.length
  if (length === 'to_end') return 'to the end'
  if (length === 'open') return 'until released'
  const s = (end.value - start.value) / 1000
  const most = (latest.value - start.value) / 1000
  return most > s + 0.001 ? `${sayDuration(s)} to ${sayDuration(most)}` : sayDuration(s)
})

function follow(event: PointerEvent, how: 'shift' | 'stretch'): void {
  draft.chosen.value = props.beat.id
  const from = event.clientX
  const node = event.currentTarget as HTMLElement
  node.setPointerCapture(event.pointerId)
  drag.value = { shift: 0, stretch: 0 }
  const grid = (px: number, free: boolean): number => {
    const seconds = px / props.perMs / 1000
    return free ? Math.round(seconds * 1000) / 1000 : Math.round(seconds * 10) / 10
  }
  const move = (e: PointerEvent): void => {
    if (drag.value) drag.value[how] = grid(e.clientX - from, e.altKey) * 1000 * props.perMs
  }
  const up = (e: PointerEvent): void => {
    node.removeEventListener('pointermove', move)
    node.removeEventListener('pointerup', up)
    node.removeEventListener('pointercancel', up)
    drag.value = null
    const by = grid(e.clientX - from, e.altKey)
    if (by === 0 || e.type === 'pointercancel') return
    if (how === 'shift') {
      const at = Math.round((props.beat.start.at_s + by) * 1000) / 1000
      draft.change(props.beat.id, {
        start: { ...props.beat.start, at_s: props.beat.start.after ? at : Math.max(0, at) },
      })
    } else {
      const s = Math.max(0.1, Math.round(((end.value - start.value) / 1000 + by) * 1000) / 1000)
      draft.change(props.beat.id, { length: { s } })
    }
  }
  node.addEventListener('pointermove', move)
  node.addEventListener('pointerup', up)
  node.addEventListener('pointercancel', up)
}
</script>

<template>
  <div
    class="block"
    :class="{ chosen: draft.chosen.value === beat.id }"
    :data-block="beat.id"
    :style="{
      left: `${left}px`,
      top: `${level * 40 + 4}px`,
      width: `${solid + soft}px`,
      '--mark': markOf(beat.kind).colour,
    }"
    :title="`${beat.id}: ${says}`"
    tabindex="0"
    @focus="draft.chosen.value = beat.id"
    @pointerdown.stop="follow($event, 'shift')"
  >
    <div class="solid" :style="{ width: `${solid}px` }">
      <WaveForm v-if="media?.wave.length" class="wave" :wave="media.wave" colour="var(--ground)" />
      <img v-else-if="media?.poster" :src="media.poster" alt="" draggable="false" />
    </div>
    <div
      v-if="soft > 0"
      class="soft-end"
      :class="{ open }"
      :style="{ left: `${solid}px`, width: `${soft}px` }"
    ></div>
    <span class="words small">{{ beat.id }} · {{ says }}</span>
    <span v-if="snag" class="snag" :class="snag.grade" :title="snag.what">{{
      snag.grade === 'error' ? '✕' : '▲'
    }}</span>
    <span class="grip" data-test="grip" title="Stretch" @pointerdown.stop="follow($event, 'stretch')"></span>
  </div>
</template>

<style scoped>
.block {
  position: absolute;
  height: 34px;
  cursor: grab;
  touch-action: none;
  user-select: none;
}

.solid {
  position: relative;
  height: 100%;
  background: var(--mark);
  border-radius: 5px;
  overflow: hidden;
}

.soft-end {
  position: absolute;
  top: 0;
  bottom: 0;
  background: repeating-linear-gradient(100deg, var(--mark) 0 4px, transparent 4px 9px);
  opacity: 0.6;
}

.wave {
  position: absolute;
  inset: 0;
  opacity: 0.35;
}

img {
  height: 100%;
  pointer-events: none;
}

.words {
  position: absolute;
  left: 6px;
  bottom: 1px;
  right: 8px;
  overflow: hidden;
  white-space: nowrap;
  color: var(--ground);
  font-weight: 700;
  text-shadow:
    0 0 3px var(--mark),
    0 0 3px var(--mark);
  pointer-events: none;
}

.chosen .solid {
  outline: 3px solid var(--ink);
  outline-offset: -3px;
}

.snag {
  position: absolute;
  right: 8px;
  top: 2px;
  width: 20px;
  text-align: center;
  border-radius: 4px;
  background: var(--ground);
  color: var(--marmalade);
  font-weight: 700;
}

.snag.error {
  color: var(--berry);
}

.grip {
  position: absolute;
  top: 0;
  bottom: 0;
  right: -4px;
  width: 10px;
  cursor: ew-resize;
}

.block:hover .grip,
.chosen .grip {
  background: linear-gradient(90deg, transparent 3px, var(--ink) 3px 6px, transparent 6px);
}
</style>
