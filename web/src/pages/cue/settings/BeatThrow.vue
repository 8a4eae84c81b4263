<script setup lang="ts">
/** What the chosen beat throws, from where, at which circles, and what happens then; two settings compared. */
import { ElCheckbox, ElOption, ElSlider } from 'element-plus'
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import DurationField from '@/parts/DurationField.vue'
import { useFields } from './useFields'
import ThrowTuning from './ThrowTuning.vue'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const book = useBook()
const { beat, set, number, text } = useFields()
const targets = computed(() =>
  (book.book?.gear ?? []).filter((g) => g.kind === 'avatar').flatMap((g) => g.targets),
)
const wanted = computed(() => beat.value?.targets ?? [])
const drops = computed(() => !beat.value?.media)
const ORIGINS = {
  above: 'above',
  left: 'the left',
  right: 'the right',
  point: 'a point on the stage',
  random: 'random side',
}
const LANDINGS = { bounce: 'bounces off', stick: 'sticks', run: 'runs down' }

function toggle(id: string, on: boolean): void {
  set({ targets: on ? [...wanted.value, id] : wanted.value.filter((other) => other !== id) })
}
</script>

<template>
  <div v-if="beat" class="stack">
    <div class="two">
      <label class="field"
        >How many<NumberField
          :least="1"
          :most="100"
          :model-value="number('count', 5)"
          @update:model-value="set({ count: $event })"
          whole
      /></label>
      <label class="field"
        >Interval<DurationField
          :model-value="number('every_s', 0.4)"
          @update:model-value="set({ every_s: $event })"
      /></label>
    </div>
    <div class="two">
      <label class="field"
        >From
        <PickField
          data-test="origin"
          :model-value="beat.origin ?? 'above'"
          @update:model-value="set({ origin: $event })"
        >
          <ElOption v-for="(name, id) in ORIGINS" :key="id" :value="id" :label="name" />
        </PickField>
      </label>
      <label class="field"
        >Flight time<DurationField
          :model-value="number('flight_s', 0.7)"
          :least="0.1"
          @update:model-value="set({ flight_s: $event })"
      /></label>
    </div>
    <fieldset class="small">
      <legend class="soft">At {{ wanted.length ? 'one of' : 'any of' }}</legend>
      <ElCheckbox
        v-for="one in targets"
        :key="one.id"
        :model-value="wanted.includes(one.id)"
        @update:model-value="toggle(one.id, Boolean($event))"
        >{{ one.name }}</ElCheckbox
      >
      <span v-if="!targets.length" class="soft">no targets yet; add them on the stage</span>
    </fieldset>
    <div class="two">
      <label class="field"
        >On impact
        <PickField :model-value="beat.landing ?? 'bounce'" @update:model-value="set({ landing: $event })">
          <ElOption v-for="(name, id) in LANDINGS" :key="id" :value="id" :label="name" />
        </PickField>
      </label>
      <label class="field"
        >Stays for<DurationField
          :model-value="number('linger_s', 1.2)"
          :least="0.1"
          @update:model-value="set({ linger_s: $event })"
      /></label>
    </div>
    <div class="two">
      <label class="field"
        >Size {{ Math.round(number('size', 0.12) * 100) }} %<ElSlider
          :model-value="number('size', 0.12) * 100"
          :min="2"
          :max="60"
          @update:model-value="set({ size: Number($event) / 100 })"
      /></label>
      <label class="field"
        >Arc<ElSlider
          :model-value="number('arc', 0.12) * 100"
          @update:model-value="set({ arc: Number($event) / 100 })"
      /></label>
    </div>
    <div v-if="drops" class="two">
      <label class="field"
        >Drop colour<input
          type="color"
          :value="text('colour') || '#6b3a12'"
          @input="set({ colour: ($event.target as HTMLInputElement).value })"
      /></label>
      <label class="field"
        >Thickness<ElSlider
          :model-value="number('thickness', 0.7) * 100"
          @update:model-value="set({ thickness: Number($event) / 100 })"
      /></label>
    </div>
    <label v-else class="field"
      >Spin<ElSlider
        :model-value="number('spin', 0.7)"
        :min="-5"
        :max="5"
        :step="0.1"
        @update:model-value="set({ spin: Number($event) })"
    /></label>
    <ThrowTuning />
  </div>
</template>
