<script setup lang="ts">
/** One beat on the score: drag it in time, stretch its end. Natural lengths are solid, a range has a soft end. */
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import type { AnyBeat } from '@/api/client'
import { sayDuration } from '@/logic/duration'
import { sayBeat } from '@/beats'
import { filledFor } from '@/logic/templates'
import { markOf } from '@/parts/marks'
import WaveForm from '@/parts/WaveForm.vue'
import { useDraft, useTrying } from '../draft'
import { BLOCK_PX, LEVEL_PX } from './measures'
import { useBlockDrag } from './useBlockDrag'
import { fileOf } from '@/logic/beats'

const props = defineProps<{ beat: AnyBeat; level: number; perMs: number }>()
const draft = useDraft()
const { pretend } = useTrying()
const book = useBook()
const { drag, follow } = useBlockDrag(props, draft, () => ({ start: start.value, end: end.value }))

const span = computed(() => draft.spans.value.get(props.beat.id))
const start = computed(() => span.value?.start ?? 0)
const end = computed(() => span.value?.end ?? start.value)
const latest = computed(() =>
  span.value ? (span.value.end_latest ?? Math.max(end.value, start.value) + 5000) : end.value,
)
const open = computed(() => span.value?.end_latest === null)
const media = computed(() => book.mediaById.get(fileOf(props.beat)))

/** Pictures side by side along one pass, repeated over the block's length. */
const strip = computed(() => {
  const { strip, length_s } = media.value ?? {}
  if (!strip || !length_s) return null
  const width = Math.max(20, (media.value?.trimmed_s || length_s) * 1000 * props.perMs)
  return { backgroundImage: `url(${strip})`, backgroundSize: `${width}px 100%` }
})

const snag = computed(() => draft.snags.value.find((s) => s.beat === props.beat.id && s.hidden === null))
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
</script>

<template>
  <div
    class="block"
    :class="{ chosen: draft.picked.value.includes(beat), lifted: drag?.shift }"
    :data-block="beat.id"
    :style="{
      left: `${left}px`,
      top: `${level * LEVEL_PX + 3}px`,
      height: `${BLOCK_PX}px`,
      width: `${solid + soft}px`,
      '--mark': markOf(beat.kind).colour,
    }"
    :title="`${beat.id}: ${says}`"
    role="button"
    :aria-pressed="draft.picked.value.includes(beat)"
    tabindex="0"
    @keydown.enter.stop.prevent="draft.choose(beat.id, $event.shiftKey)"
    @pointerdown.stop="follow($event, 'shift')"
  >
    <div class="solid" :style="{ width: `${solid}px` }">
      <WaveForm v-if="media?.wave.length && !strip" class="wave" :wave="media.wave" colour="var(--ground)" />
      <span v-if="strip" class="strip" :style="strip"></span>
      <img v-else-if="media?.poster" :src="media.poster" alt="" draggable="false" />
    </div>
    <div
      v-if="soft > 0"
      class="soft-end"
      :class="{ open }"
      :style="{ left: `${solid}px`, width: `${soft}px` }"
    ></div>
    <span class="words small">{{ filledFor(sayBeat(beat), pretend) }} · {{ says }}</span>
    <span class="unseen"
      >, from {{ sayDuration((span?.start ?? 0) / 1000) }}{{ snag ? `. ${snag.what}` : '' }}</span
    >
    <span
      v-if="span?.returns_to"
      class="tail small"
      :style="{ left: `${solid + soft}px` }"
      :title="`Then returns to ${span.returns_to}`"
      >{{ span.returns_to === 'stays' ? 'stays' : `↩ ${span.returns_to}` }}</span
    >
    <span v-if="snag" class="snag" :class="snag.grade" :title="snag.what">{{
      snag.grade === 'error' ? '✕' : '▲'
    }}</span>
    <span class="grip" data-test="grip" title="Stretch" @pointerdown.stop="follow($event, 'stretch')"></span>
  </div>
</template>

<style scoped>
.block {
  position: absolute;
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

.strip {
  position: absolute;
  inset: 0;
  opacity: 0.75;
}

.lifted {
  z-index: 3;
  opacity: 0.75;
}

.block[data-anchor='start'] {
  box-shadow: -5px 0 0 var(--ink);
}

.block[data-anchor='end'] {
  box-shadow: 5px 0 0 var(--ink);
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
  text-overflow: ellipsis;
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

.tail {
  position: absolute;
  top: 2px;
  padding: 0 8px 0 14px;
  white-space: nowrap;
  color: var(--soft);
  background: linear-gradient(90deg, var(--mark) 0 6px, transparent 6px);
  pointer-events: none;
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
