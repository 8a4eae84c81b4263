<script setup lang="ts">
/** A volume in percent: by a slider, or typed as a number; with its decibels. */
import { ElSlider } from 'element-plus'
import { computed } from 'vue'
import { sayDb } from '@/logic/volume'
import NumberField from './NumberField.vue'

const props = defineProps<{ modelValue: number; name: string }>()
const emit = defineEmits<{ 'update:modelValue': [percent: number] }>()
const db = computed(() => sayDb(props.modelValue))
</script>

<template>
  <div class="field volume" role="group" :aria-label="name">
    <span
      >{{ name }} <span class="soft small">{{ db }}</span></span
    >
    <span class="both">
      <ElSlider
        :model-value="modelValue"
        :aria-label="name"
        @update:model-value="emit('update:modelValue', Number($event))"
      />
      <NumberField
        :model-value="modelValue"
        :least="0"
        :most="100"
        :aria-label="`${name}, in percent`"
        narrow
        @update:model-value="emit('update:modelValue', $event)"
      />
    </span>
  </div>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 62px;
  align-items: center;
  gap: 16px;
  padding-left: 8px;
}
</style>
