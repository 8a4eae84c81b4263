<script setup lang="ts">
/** Who speaks the chosen beat, and what is visible of it: its words as they are spoken, and a mouth. */
import type { BeatFields } from '@/api/client'
import { ElCheckbox, ElOption, ElSlider } from 'element-plus'
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import type { Place } from '@/composables/useCueDraft'
import { useDraft } from '../draft'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const book = useBook()
const draft = useDraft()
const beat = draft.chosenBeat
const cast = computed(() => book.book?.cast ?? [])
const drawn = computed(() => cast.value.filter((part) => part.mouths.length > 1))

const SIDES = [
  ['x', 'Mouth left'],
  ['y', 'top'],
  ['w', 'width'],
  ['h', 'height'],
] as const
const mouth = computed(
  () => (beat.value?.mouth_place as Place | undefined) ?? { x: 0.72, y: 0.3, w: 0.24, h: 0.44 },
)

function setMouth(key: keyof Place, percent: number): void {
  set({ mouth_place: { ...mouth.value, [key]: percent / 100 } })
}

function set(fields: BeatFields): void {
  if (beat.value) draft.change(beat.value.id, fields)
}
</script>

<template>
  <div v-if="beat" class="speech">
    <label class="field"
      >Read by<PickField
        data-test="part"
        :model-value="String(beat.part ?? '')"
        @update:model-value="set({ part: $event || null })"
      >
        <ElOption value="" label="the named part, or the default" />
        <ElOption
          v-for="part in cast"
          :key="part.id"
          :value="part.id"
          :label="`${part.name}, unless it names another`"
        /> </PickField
    ></label>
    <p v-if="!cast.length" class="soft small">
      One plain voice reads. <RouterLink to="/cast">Add parts on the Cast page.</RouterLink>
    </p>
    <div class="row">
      <ElCheckbox
        :model-value="beat.caption !== false"
        @update:model-value="set({ caption: Boolean($event) })"
        >Caption</ElCheckbox
      >
      <ElCheckbox
        :model-value="Boolean(beat.mouth)"
        :disabled="!drawn.length"
        @update:model-value="set({ mouth: Boolean($event) })"
        >Talking picture</ElCheckbox
      >
    </div>
    <div v-if="beat.mouth" class="four">
      <label v-for="[key, name] in SIDES" :key="key" class="field"
        >{{ name }} %<NumberField
          :step="1"
          :model-value="Math.round(mouth[key] * 100)"
          @update:model-value="setMouth(key, $event)"
          whole
      /></label>
    </div>
    <label v-if="beat.caption !== false" class="field"
      >Text height<ElSlider
        :model-value="Number(beat.size ?? 0.06) * 100"
        :min="2"
        :max="20"
        @update:model-value="set({ size: Number($event) / 100 })"
    /></label>
  </div>
</template>

<style scoped>
.speech {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
}

.row {
  flex-wrap: wrap;
}

.four {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 6px;
}
</style>
