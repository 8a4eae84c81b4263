<script setup lang="ts">
/** How the chosen beat lies on the overlay: place, entrance and exit, opacity, corner, flip; and on which overlays. */
import type { BeatFields } from '@/api/client'
import { ElCheckbox, ElOption, ElSlider } from 'element-plus'
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import type { Place } from '@/composables/useCueDraft'
import { round4 } from '@/logic/arrange'
import DurationField from '@/parts/DurationField.vue'
import { useDraft } from '../draft'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const book = useBook()
const draft = useDraft()
const beat = draft.chosenBeat
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
const SIDES = [
  ['x', 'Left'],
  ['y', 'Top'],
  ['w', 'Width'],
  ['h', 'Height'],
] as const
const overlays = computed(() => book.book?.overlays ?? [])
const wanted = computed(() => beat.value?.overlays ?? [])

function set(fields: BeatFields): void {
  for (const one of draft.picked.value) draft.change(one.id, fields)
}

function setPlace(key: keyof Place, percent: number): void {
  if (beat.value && place.value)
    draft.change(beat.value.id, { place: { ...place.value, [key]: round4(percent / 100) } })
}

function toggle(id: string, on: boolean): void {
  const now = wanted.value.length ? wanted.value : overlays.value.filter((o) => !o.private).map((o) => o.id)
  const next = on ? [...now, id] : now.filter((other) => other !== id)
  if (next.length) set({ overlays: next })
}
</script>

<template>
  <div v-if="beat" class="look">
    <template v-if="place && beat.kind !== 'speech' && beat.kind !== 'throw'">
      <div class="four">
        <label v-for="[key, name] in SIDES" :key="key" class="field">
          {{ name }} %<NumberField
            :step="0.5"
            narrow
            :model-value="Math.round(place[key] * 1000) / 10"
            @update:model-value="setPlace(key, $event)"
          />
        </label>
      </div>
      <div class="moves">
        <label
          v-for="[way, name, usual] in [
            ['enter', 'Entrance', 'fade_in_s'],
            ['leave', 'Exit', 'fade_out_s'],
          ] as const"
          :key="way"
          class="field"
          >{{ name }}
          <span class="pair">
            <PickField
              :model-value="beat[way] ?? 'fade'"
              :aria-label="name"
              @update:model-value="set({ [way]: $event })"
            >
              <ElOption v-for="(words, id) in MOVES" :key="id" :value="id" :label="words" />
            </PickField>
            <DurationField
              :label="`${name} over`"
              :model-value="Number(beat[usual] ?? 0.2)"
              @update:model-value="set({ [usual]: $event })"
            />
          </span>
        </label>
      </div>
      <label class="field"
        >Opacity<ElSlider
          :model-value="Number(beat.opacity ?? 1) * 100"
          :min="5"
          @update:model-value="set({ opacity: Number($event) / 100 })"
      /></label>
      <div class="two">
        <label class="field"
          >Rounded corners<ElSlider
            :model-value="Number(beat.corner ?? 0) * 100"
            @update:model-value="set({ corner: Number($event) / 100 })"
        /></label>
        <ElCheckbox :model-value="Boolean(beat.flip)" @update:model-value="set({ flip: Boolean($event) })"
          >Mirrored</ElCheckbox
        >
      </div>
    </template>
    <fieldset v-if="overlays.length > 1 && beat.overlays" class="where small">
      <legend class="soft">Overlays</legend>
      <ElCheckbox
        v-for="o in overlays"
        :key="o.id"
        :model-value="wanted.length ? wanted.includes(o.id) : !o.private"
        @update:model-value="toggle(o.id, Boolean($event))"
        >{{ o.name }}{{ o.private ? ' (only you)' : '' }}</ElCheckbox
      >
    </fieldset>
  </div>
</template>

<style scoped>
.look {
  display: grid;
  gap: 6px;
}

.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
  align-items: end;
}

.moves {
  display: grid;
  gap: 6px;
}

.moves label.field {
  grid-template-columns: 48px minmax(0, 1fr);
  align-items: center;
}

.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 88px;
  gap: 8px;
}

.four {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 6px;
}

.four .well {
  padding-inline: 6px;
}

.where {
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 4px 10px;
}
</style>
