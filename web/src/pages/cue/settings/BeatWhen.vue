<script setup lang="ts">
/** When the chosen beat begins and how long it lasts. */
import type { BeatFields } from '@/api/client'
import { BEAT_KINDS } from '@/api/kinds'
import { BEATS } from '@/beats'
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import { sayDuration } from '@/logic/duration'
import DurationField from '@/parts/DurationField.vue'
import { useDraft } from '../draft'
import { fileOf, loopsOf, secondsOf } from '@/logic/beats'
import { ElOption } from 'element-plus'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const book = useBook()
const draft = useDraft()
const beat = draft.chosenBeat

const kind = computed(() => BEATS[beat.value?.kind ?? 'picture'])
/** Beats that can be kept permanently: properties of gear that can be read. */
const keeps = computed(
  () => BEAT_KINDS[beat.value?.kind ?? 'picture'].way === 'hold' && kind.value.keeps !== false,
)
const others = computed(() => draft.beats.value.filter((b) => b.id !== beat.value?.id))
const media = computed(() => book.mediaById.get(fileOf(beat.value)))
const lengthKind = computed(() => {
  const length = beat.value?.length
  if (length === undefined) return 'none'
  if (typeof length === 'string') return length
  return 'loops' in length ? 'loops' : 'seconds'
})
const seconds = computed(() => secondsOf(beat.value?.length))
const loops = computed(() => loopsOf(beat.value?.length) ?? 1)
const span = computed(() => draft.spans.value.get(beat.value?.id ?? ''))

function set(fields: BeatFields): void {
  if (beat.value) draft.change(beat.value.id, fields)
}

function setLength(kind: string): void {
  const now = span.value ? Math.max(0.1, (span.value.end - span.value.start) / 1000) : 5
  if (kind === 'seconds') set({ length: { s: Math.round(now * 1000) / 1000 } })
  else if (kind === 'loops') set({ length: { loops: 3 } })
  else set({ length: kind as BeatFields['length'] })
}

/** The throw that the beat depends on, if any. */
const thrown = computed(() =>
  draft.beats.value.find((b) => b.id === beat.value?.start.after && b.kind === 'throw'),
)

function setAnchor(after: string): void {
  const throws = draft.beats.value.some((b) => b.id === after && b.kind === 'throw')
  set({ start: { at_s: 0, after: after || null, edge: throws ? 'hit' : 'end', hit: 1 } })
}
</script>

<template>
  <div v-if="beat" class="when">
    <div class="two">
      <label class="field">
        Starts after
        <PickField
          data-test="after"
          :model-value="beat.start.after ?? ''"
          @update:model-value="setAnchor($event)"
        >
          <ElOption value="" label="the start" />
          <ElOption v-for="other in others" :key="other.id" :value="other.id" :label="other.id" />
        </PickField>
      </label>
      <label v-if="beat.start.after" class="field">
        its
        <PickField
          :model-value="beat.start.edge"
          @update:model-value="set({ start: { ...beat.start, edge: $event } })"
        >
          <ElOption value="end" label="end" />
          <ElOption value="start" label="start" />
          <ElOption v-if="thrown" value="hit" label="hit" />
        </PickField>
      </label>
      <label v-if="beat.start.edge === 'hit' && beat.start.after" class="field"
        >which<NumberField
          :least="1"
          :most="Number(thrown?.count ?? 1)"
          :model-value="beat.start.hit"
          @update:model-value="
            set({
              start: { ...beat.start, hit: $event },
            })
          "
          whole
      /></label>
      <label class="field"
        >plus<DurationField
          :model-value="beat.start.at_s"
          @update:model-value="set({ start: { ...beat.start, at_s: $event } })"
      /></label>
    </div>
    <div v-if="lengthKind !== 'none'" class="two">
      <label class="field">
        Lasts
        <PickField data-test="length-kind" :model-value="lengthKind" @update:model-value="setLength($event)">
          <ElOption v-if="kind.natural || beat.media" value="natural" label="natural length" />
          <ElOption value="seconds" label="fixed time" />
          <ElOption v-if="kind.loops" value="loops" label="number of loops" />
          <ElOption value="to_end" label="to the end" />
          <ElOption value="open" label="until released" />
          <ElOption v-if="keeps" value="keep" label="permanently" />
        </PickField>
      </label>
      <label v-if="lengthKind === 'seconds'" class="field"
        >Time<DurationField
          :model-value="seconds"
          :least="0.1"
          @update:model-value="set({ length: { s: $event } })"
      /></label>
      <label v-else-if="lengthKind === 'loops'" class="field">
        Loops
        <NumberField
          :least="1"
          :model-value="loops"
          @update:model-value="
            set({
              length: { loops: $event },
            })
          "
          whole
        />
        <span v-if="media?.length_s">{{ loops }} loops = {{ sayDuration(loops * media.length_s) }}</span>
      </label>
      <span v-else-if="span && span.end_latest !== null" class="soft small now"
        >now {{ sayDuration((span.end - span.start) / 1000) }}</span
      >
    </div>
  </div>
</template>

<style scoped>
.when {
  display: grid;
  gap: 6px;
}

.two {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
}

.when label.field {
  flex: 1 1 90px;
  grid-template-columns: auto minmax(64px, 1fr);
  align-items: center;
  gap: 8px;
}

.two > label.field:first-child {
  flex: 2 1 180px;
}
</style>
