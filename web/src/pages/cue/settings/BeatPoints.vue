<script setup lang="ts">
/** How many points of our own the viewer of the chosen beat gets. */
import NumberField from '@/parts/NumberField.vue'
import { useFields } from './useFields'

const { beat, set, number } = useFields()
</script>

<template>
  <label v-if="beat" class="field"
    >Points<NumberField
      :model-value="number('give', 100)"
      :least="1"
      :most="1_000_000"
      data-test="give"
      whole
      @update:model-value="set({ give: $event })"
  /></label>
</template>
