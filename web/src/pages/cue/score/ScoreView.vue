<script setup lang="ts">
/** The score: one row per kind of output in use, blocks along the time. */
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useLive } from '@/composables/useLive'
import type { AnyBeat } from '@/api/client'
import { sayDuration } from '@/logic/duration'
import { MARKS, outputOf, type Output } from '@/parts/marks'
import OutputMark from '@/parts/OutputMark.vue'
import { useDraft, useTrying } from '../draft'
import { LEVEL_PX } from './measures'
import ScoreBlock from './ScoreBlock.vue'

const props = defineProps<{ zoom: number }>()
const emit = defineEmits<{ tall: [px: number] }>()
/** The ruler, and a row of the blocks. */
const RULER_PX = 20
const draft = useDraft()
const trying = useTrying()
const live = useLive()
const area = ref<HTMLElement>()
const { width } = useElementSize(area)

const longest = computed(() => {
  const ends = [...draft.spans.value.values()].map((span) =>
    Math.max(span.end, span.end_latest ?? span.start + 5000),
  )
  return Math.max(5000, ...ends)
})
const perMs = computed(() => ((Math.max(300, width.value) - 40) / (longest.value * 1.12)) * props.zoom)
const step = computed(() => {
  const least = 70 / perMs.value
  return [100, 200, 500, 1000, 2000, 5000, 10_000, 30_000, 60_000, 300_000].find((s) => s >= least) ?? 600_000
})
const ticks = computed(() => {
  const last = (longest.value * 1.12) / 1
  return Array.from({ length: Math.floor(last / step.value) + 1 }, (_, i) => i * step.value)
})
const rows = computed(() => {
  const byOutput = new Map<Output, AnyBeat[]>()
  for (const beat of draft.beats.value) {
    const output = outputOf(beat.kind)
    byOutput.set(output, [...(byOutput.get(output) ?? []), beat])
  }
  return (Object.keys(MARKS) as Output[])
    .filter((o) => byOutput.has(o))
    .map((output) => ({ output, beats: stacked(byOutput.get(output) ?? []) }))
})

/** Beats of one row that overlap in time are stacked. */
function stacked(beats: AnyBeat[]): { beat: AnyBeat; level: number }[] {
  const ends: number[] = []
  return beats.map((beat) => {
    const span = draft.spans.value.get(beat.id)
    const start = span?.start ?? 0
    let level = ends.findIndex((end) => end <= start)
    if (level < 0) level = ends.length
    ends[level] = Math.max(span?.end ?? 0, start + 30 / perMs.value)
    return { beat, level }
  })
}

function height(beats: { level: number }[]): number {
  return (Math.max(0, ...beats.map((b) => b.level)) + 1) * LEVEL_PX + 3
}

watch(
  () => RULER_PX + rows.value.reduce((sum, row) => sum + height(row.beats), 0),
  (px) => emit('tall', px),
  { immediate: true },
)

const playhead = computed(() => {
  if (trying.at.value !== null) return trying.at.value * perMs.value
  const run = live.running.find((r) => r.cue === draft.cue.value?.id)
  return run ? (live.now - run.started) * perMs.value : null
})
const total = computed(() => {
  const spans = [...draft.spans.value.values()]
  if (!spans.length) return ''
  const least = Math.max(...spans.map((s) => s.end))
  const most = spans.some((s) => s.end_latest === null)
    ? null
    : Math.max(...spans.map((s) => s.end_latest ?? 0))
  if (most === null) return `${sayDuration(least / 1000)} or longer`
  return least === most
    ? sayDuration(least / 1000)
    : `${sayDuration(least / 1000)} to ${sayDuration(most / 1000)}`
})
</script>

<template>
  <div class="score">
    <div class="names">
      <div class="total small">{{ total }}</div>
      <div
        v-for="row in rows"
        :key="row.output"
        class="row-name small"
        :style="{ height: `${height(row.beats)}px` }"
      >
        <OutputMark :of="row.output" />{{ MARKS[row.output].name }}
      </div>
    </div>
    <div ref="area" class="area" data-test="score" @pointerdown.self="draft.chosen.value = null">
      <div class="inner" :style="{ width: `${longest * 1.12 * perMs}px` }">
        <div class="ruler small">
          <span v-for="tick in ticks" :key="tick" class="tick" :style="{ left: `${tick * perMs}px` }">{{
            sayDuration(tick / 1000)
          }}</span>
        </div>
        <div v-for="row in rows" :key="row.output" class="lane" :style="{ height: `${height(row.beats)}px` }">
          <ScoreBlock
            v-for="{ beat, level } in row.beats"
            :key="beat.id"
            :beat="beat"
            :level="level"
            :per-ms="perMs"
          />
        </div>
        <div
          v-if="playhead !== null"
          class="playhead"
          :style="{ transform: `translateX(${playhead}px)` }"
        ></div>
      </div>
    </div>
    <p v-if="!rows.length" class="soft none">Empty. Add a picture, clip, sound or caption above.</p>
  </div>
</template>

<style scoped>
.score {
  display: grid;
  grid-template-columns: 120px minmax(0, 1fr);
  position: relative;
  margin-top: 4px;
  min-height: 0;
  overflow-y: auto;
  align-content: start;
}

.total {
  height: 20px;
  color: var(--soft);
}

.row-name {
  display: flex;
  align-items: center;
  gap: 8px;
  border-top: 1px solid var(--line);
}

.area {
  overflow-x: auto;
  overflow-y: hidden;
}

.inner {
  position: relative;
  min-width: 100%;
}

.ruler {
  position: relative;
  height: 20px;
  color: var(--soft);
}

.tick {
  position: absolute;
  padding-left: 4px;
  border-left: 1px solid var(--line);
  white-space: nowrap;
}

.lane {
  position: relative;
  border-top: 1px solid var(--line);
}

.playhead {
  position: absolute;
  top: 0;
  bottom: 0;
  left: 0;
  width: 2px;
  background: var(--berry);
}

.none {
  grid-column: 1 / -1;
  margin: 8px 0;
}
</style>
