<script setup lang="ts">
/** A bar: which count, its goal, and how it looks. */
import { ElOption } from 'element-plus'
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'
import { useFields } from './useFields'

const book = useBook()
const { beat, set, text } = useFields()
const counts = computed(() => book.book?.counts ?? [])
const goal = computed(() => counts.value.find((one) => one.id === beat.value?.count)?.goal)

/** A dial and a jar are about as high as wide. */
function reshape(shape: string): void {
  const place = beat.value?.place
  if (!place) return
  const wide = shape === 'rail'
  const size = wide ? { w: 0.5, h: 0.1 } : { w: 0.16, h: 0.28 }
  const was = beat.value?.shape === 'rail'
  set({ shape: shape as 'rail', ...(was === wide ? {} : { place: { ...place, ...size } }) })
}
</script>

<template>
  <div v-if="beat" class="stack">
    <label class="field"
      >Count
      <PickField
        :model-value="text('count')"
        :choices="counts.map((one) => ({ value: one.id, name: one.name }))"
        data-test="bar-count"
        @update:model-value="set({ count: String($event) })"
    /></label>
    <div class="two">
      <label class="field"
        >Up to<NumberField
          :model-value="beat.goal"
          :least="1"
          :hint="goal ? `its goal, ${goal}` : 'a number'"
          whole
          :optional="Boolean(goal)"
          data-test="bar-goal"
          @update:model-value="set({ goal: $event })"
          @clear="set({ goal: null })"
      /></label>
      <label class="field"
        >Shape
        <PickField :model-value="text('shape')" data-test="bar-shape" @update:model-value="reshape">
          <ElOption value="rail" label="rail" />
          <ElOption value="jar" label="jar" />
          <ElOption value="dial" label="dial" /> </PickField
      ></label>
      <label class="field"
        >Says
        <PickField :model-value="text('says')" @update:model-value="set({ says: $event as 'number' })">
          <ElOption value="number" label="37 of 100" />
          <ElOption value="share" label="37 %" />
          <ElOption value="left" label="63 to go" />
          <ElOption value="nothing" label="nothing" /> </PickField
      ></label>
      <label class="row"
        ><input
          type="checkbox"
          :checked="beat.title !== false"
          @change="set({ title: ($event.target as HTMLInputElement).checked })"
        />Show name</label
      >
    </div>
    <div class="row small">
      <label class="row"
        >Fill<input
          type="color"
          :value="text('colour')"
          @input="set({ colour: ($event.target as HTMLInputElement).value })"
      /></label>
      <label class="row"
        >Plate<input
          type="color"
          :value="text('plate')"
          @input="set({ plate: ($event.target as HTMLInputElement).value })"
      /></label>
    </div>
  </div>
</template>
