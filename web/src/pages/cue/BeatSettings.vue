<script setup lang="ts">
/** The chosen beat: when, how long, where, how it comes and goes. */
import { ElSlider } from 'element-plus'
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import type { Place } from '@/composables/useCueDraft'
import { sayDuration } from '@/logic/duration'
import { markOf } from '@/parts/marks'
import DurationField from '@/parts/DurationField.vue'
import OutputMark from '@/parts/OutputMark.vue'
import { useDraft } from './draft'

const book = useBook()
const draft = useDraft()
const beat = draft.chosenBeat

const others = computed(() => draft.beats.value.filter((b) => b.id !== beat.value?.id))
const media = computed(() =>
  book.mediaById.get((beat.value?.media as { file?: string } | undefined)?.file ?? ''),
)
const choices = computed(() => book.media.filter((m) => m.kind === beat.value?.kind))
const jars = computed(() => (book.book?.jars ?? []).filter((jar) => jar.kind === 'media'))
const source = computed({
  get: () => {
    const ref = beat.value?.media as { file?: string; jar?: string } | undefined
    return ref?.jar ? `jar:${ref.jar}` : `file:${ref?.file ?? ''}`
  },
  set: (value: string) => {
    const [kind, id] = value.split(':') as [string, string]
    set({ media: kind === 'jar' ? { jar: id, count: 1 } : { file: id } })
  },
})
const lengthKind = computed(() => {
  const length = beat.value?.length as string | { s?: number; loops?: number } | undefined
  if (length === undefined) return 'none'
  if (typeof length === 'string') return length
  return length.loops === undefined ? 'seconds' : 'loops'
})
const seconds = computed(() => (beat.value?.length as { s?: number })?.s ?? null)
const loops = computed(() => (beat.value?.length as { loops?: number })?.loops ?? 1)
const span = computed(() => draft.spans.value.get(beat.value?.id ?? ''))
const place = computed(() => beat.value?.place as Place | undefined)
const MOVES = {
  none: 'at once',
  fade: 'fading',
  from_left: 'from the left',
  from_right: 'from the right',
  from_above: 'from above',
  from_below: 'from below',
  pop: 'popping',
  drop: 'dropping',
}

function set(fields: Record<string, unknown>): void {
  if (beat.value) draft.change(beat.value.id, fields)
}

function setLength(kind: string): void {
  const now = span.value ? Math.max(0.1, (span.value.end - span.value.start) / 1000) : 5
  if (kind === 'seconds') set({ length: { s: Math.round(now * 1000) / 1000 } })
  else if (kind === 'loops') set({ length: { loops: 3 } })
  else set({ length: kind })
}

function setPlace(key: keyof Place, percent: string): void {
  const value = Number(percent) / 100
  if (place.value && Number.isFinite(value))
    set({ place: { ...place.value, [key]: Math.round(value * 10_000) / 10_000 } })
}

function setAnchor(after: string): void {
  set({ start: { at_s: 0, after: after || null, edge: 'end' } })
}
</script>

<template>
  <section class="card settings">
    <p v-if="!beat" class="soft">Choose a beat on the stage or on the score to set it.</p>
    <template v-else>
      <div class="row">
        <OutputMark :of="beat.kind" :size="20" />
        <h2 class="grow">{{ markOf(beat.kind).name }}: {{ beat.id }}</h2>
        <button class="btn tiny danger" title="Delete" @click="draft.removeBeat(beat.id)">Remove</button>
      </div>
      <label v-if="beat.media" class="field">
        What
        <select v-model="source" class="well">
          <optgroup label="Files">
            <option v-for="m in choices" :key="m.id" :value="`file:${m.id}`">
              {{ m.name }}{{ m.missing ? ' (missing)' : '' }}
            </option>
          </optgroup>
          <optgroup v-if="jars.length" label="Drawn from a jar">
            <option v-for="jar in jars" :key="jar.id" :value="`jar:${jar.id}`">
              {{ jar.name || jar.id }}
            </option>
          </optgroup>
        </select>
      </label>
      <label v-if="typeof beat.text === 'string'" class="field">
        Words
        <textarea
          class="well"
          rows="2"
          :value="String(beat.text)"
          @input="set({ text: ($event.target as HTMLTextAreaElement).value })"
        ></textarea>
        <span class="row chips">
          <button
            v-for="chip in ['viewer', 'text', 'reward', 'cost', 'count_all']"
            :key="chip"
            class="btn tiny"
            type="button"
            @click="set({ text: `${beat.text} {{${chip}}}` })"
          >
            {{ chip }}
          </button>
        </span>
      </label>
      <div class="two">
        <label class="field">
          Begins after
          <select
            class="well"
            :value="beat.start.after ?? ''"
            @change="setAnchor(($event.target as HTMLSelectElement).value)"
          >
            <option value="">the start</option>
            <option v-for="other in others" :key="other.id" :value="other.id">{{ other.id }}</option>
          </select>
        </label>
        <label v-if="beat.start.after" class="field">
          its
          <select
            class="well"
            :value="beat.start.edge"
            @change="set({ start: { ...beat.start, edge: ($event.target as HTMLSelectElement).value } })"
          >
            <option value="end">end</option>
            <option value="start">start</option>
          </select>
        </label>
        <label class="field"
          >and<DurationField
            :model-value="beat.start.at_s"
            @update:model-value="set({ start: { ...beat.start, at_s: $event } })"
        /></label>
      </div>
      <div v-if="lengthKind !== 'none'" class="two">
        <label class="field">
          Lasts
          <select
            class="well"
            data-test="length-kind"
            :value="lengthKind"
            @change="setLength(($event.target as HTMLSelectElement).value)"
          >
            <option v-if="beat.media" value="natural">as long as it is</option>
            <option value="seconds">for a time</option>
            <option v-if="beat.kind === 'picture'" value="loops">whole loops</option>
            <option value="to_end">to the end</option>
            <option value="open">until released</option>
          </select>
        </label>
        <label v-if="lengthKind === 'seconds'" class="field"
          >Time<DurationField
            :model-value="seconds"
            :least="0.1"
            @update:model-value="set({ length: { s: $event } })"
        /></label>
        <label v-else-if="lengthKind === 'loops'" class="field">
          Loops
          <input
            class="well"
            type="number"
            min="1"
            :value="loops"
            @change="
              set({
                length: { loops: Math.max(1, Math.round(Number(($event.target as HTMLInputElement).value))) },
              })
            "
          />
          <span v-if="media?.length_s">{{ loops }} loops = {{ sayDuration(loops * media.length_s) }}</span>
        </label>
        <span v-else-if="span && span.end_latest !== null" class="soft small now"
          >now {{ sayDuration((span.end - span.start) / 1000) }}</span
        >
      </div>
      <template v-if="place">
        <div class="four">
          <label
            v-for="[key, name] in [
              ['x', 'Left'],
              ['y', 'Top'],
              ['w', 'Width'],
              ['h', 'Height'],
            ] as const"
            :key="key"
            class="field"
          >
            {{ name }} %<input
              class="well"
              type="number"
              step="0.5"
              :value="Math.round(place[key] * 1000) / 10"
              @change="setPlace(key, ($event.target as HTMLInputElement).value)"
            />
          </label>
        </div>
        <div class="two">
          <label class="field"
            >Comes<select
              class="well"
              :value="beat.enter ?? 'fade'"
              @change="set({ enter: ($event.target as HTMLSelectElement).value })"
            >
              <option v-for="(name, id) in MOVES" :key="id" :value="id">{{ name }}</option>
            </select></label
          >
          <label class="field"
            >Goes<select
              class="well"
              :value="beat.leave ?? 'fade'"
              @change="set({ leave: ($event.target as HTMLSelectElement).value })"
            >
              <option v-for="(name, id) in MOVES" :key="id" :value="id">{{ name }}</option>
            </select></label
          >
        </div>
        <label class="field"
          >Opacity<ElSlider
            :model-value="Number(beat.opacity ?? 1) * 100"
            :min="5"
            @update:model-value="set({ opacity: Number($event) / 100 })"
        /></label>
      </template>
      <label v-if="beat.kind === 'sound' || beat.kind === 'clip'" class="field">
        Volume, of the cue’s {{ draft.cue.value?.volume ?? book.book?.house.volume }} %
        <ElSlider
          :model-value="Number(beat.volume ?? 100)"
          @update:model-value="set({ volume: Number($event) })"
        />
      </label>
      <div v-if="beat.kind === 'sound' || place" class="two">
        <label class="field"
          >Fade in<DurationField
            :model-value="Number(beat.fade_in_s ?? (place ? 0.2 : 0))"
            @update:model-value="set({ fade_in_s: $event })"
        /></label>
        <label class="field"
          >Fade out<DurationField
            :model-value="Number(beat.fade_out_s ?? (place ? 0.2 : 0))"
            @update:model-value="set({ fade_out_s: $event })"
        /></label>
      </div>
    </template>
  </section>
</template>

<style scoped>
.settings {
  display: grid;
  gap: 10px;
  align-content: start;
  overflow: hidden auto;
  min-height: 0;
}

.two {
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: 1fr;
  gap: 8px;
  align-items: end;
}

.four {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 6px;
}

.four .well {
  padding-inline: 6px;
}

.chips {
  flex-wrap: wrap;
  gap: 4px;
}

.now {
  padding-bottom: 8px;
}
</style>
