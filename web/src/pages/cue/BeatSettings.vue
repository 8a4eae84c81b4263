<script setup lang="ts">
/** The chosen beat: when, how long, where, how it comes and goes. */
import { ElSlider } from 'element-plus'
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import type { Place } from '@/composables/useCueDraft'
import { markOf } from '@/parts/marks'
import DurationField from '@/parts/DurationField.vue'
import OutputMark from '@/parts/OutputMark.vue'
import BeatWhen from './BeatWhen.vue'
import ChanceSettings from './ChanceSettings.vue'
import { useDraft } from './draft'

const book = useBook()
const draft = useDraft()
const beat = draft.chosenBeat

const choices = computed(() =>
  book.media.filter((m) => m.kind === (beat.value?.kind === 'burst' ? 'picture' : beat.value?.kind)),
)
const jars = computed(() => (book.book?.jars ?? []).filter((jar) => jar.kind === 'media'))
const source = computed({
  get: () => {
    const ref = beat.value?.media as { file?: string; jar?: string } | undefined
    return ref?.jar ? `jar:${ref.jar}` : `file:${ref?.file ?? ''}`
  },
  set: (value: string) => {
    const [kind, id] = value.split(':') as [string, string]
    set({ media: kind === 'jar' ? { jar: id, count: 1 } : id ? { file: id } : null })
  },
})
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

const chances = computed(() =>
  draft.beats.value
    .filter((b) => b.kind === 'chance')
    .flatMap((b) => (b.outcomes ?? []) as { id: string; name: string }[]),
)
const rolled = computed(() => beat.value?.only_if.find((c) => c.rolled)?.rolled ?? '')

function setRolled(outcome: string): void {
  const rest = (beat.value?.only_if ?? []).filter((c) => !c.rolled)
  set({ only_if: outcome ? [...rest, { rolled: outcome }] : rest })
}

function set(fields: Record<string, unknown>): void {
  if (beat.value) draft.change(beat.value.id, fields)
}

function setPlace(key: keyof Place, percent: string): void {
  const value = Number(percent) / 100
  if (place.value && Number.isFinite(value))
    set({ place: { ...place.value, [key]: Math.round(value * 10_000) / 10_000 } })
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
      <label v-if="beat.media || beat.kind === 'burst'" class="field">
        What
        <select v-model="source" class="well" data-test="source">
          <option v-if="beat.kind === 'burst'" value="file:">a shape, no picture</option>
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
      <ChanceSettings v-if="beat.kind === 'chance'" />
      <label v-if="chances.length && beat.kind !== 'chance'" class="field">
        Only if
        <select
          class="well"
          data-test="only-if"
          :value="rolled"
          @change="setRolled(($event.target as HTMLSelectElement).value)"
        >
          <option value="">always</option>
          <option v-for="o in chances" :key="o.id" :value="o.id">it comes out {{ o.name || o.id }}</option>
        </select>
      </label>
      <div v-if="beat.kind === 'burst'" class="two">
        <label class="field"
          >Pieces<input
            class="well"
            type="number"
            min="1"
            max="400"
            :value="Number(beat.count ?? 60)"
            @change="set({ count: Number(($event.target as HTMLInputElement).value) })"
        /></label>
        <label class="field"
          >Shape<select
            class="well"
            :value="beat.shape ?? 'ticket'"
            @change="set({ shape: ($event.target as HTMLSelectElement).value })"
          >
            <option v-for="shape in ['ticket', 'spark', 'leaf', 'dot']" :key="shape">{{ shape }}</option>
          </select></label
        >
        <label class="field"
          >Bounce<input
            class="well"
            type="number"
            min="0"
            max="1"
            step="0.1"
            :value="Number(beat.bounce ?? 0)"
            @change="set({ bounce: Number(($event.target as HTMLInputElement).value) })"
        /></label>
      </div>
      <BeatWhen />
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
