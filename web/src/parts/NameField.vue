<script setup lang="ts">
/** The name of something on the gear, chosen from a list; an unknown one is kept and marked. */
import { computed } from 'vue'
import PickField from '@/parts/PickField.vue'

const props = defineProps<{
  label: string
  modelValue: string
  known: readonly string[]
  /** Details beside each name. */
  details?: Record<string, string>
}>()
const emit = defineEmits<{ 'update:modelValue': [name: string] }>()
const plain = (name: string): string => name.trim().toLowerCase()
const there = computed(() => props.known.find((name) => plain(name) === plain(props.modelValue)))
const choices = computed(() => [
  ...(there.value === undefined
    ? [{ value: props.modelValue, name: `${props.modelValue} (not there)` }]
    : []),
  ...props.known.map((name) => ({ value: name, name, detail: props.details?.[name] })),
])
</script>

<template>
  <label class="field">
    {{ label }}
    <PickField
      v-if="known.length"
      :class="{ lost: !there }"
      :model-value="there ?? modelValue"
      :data-test="`name-${label.toLowerCase()}`"
      @update:model-value="emit('update:modelValue', $event)"
      :choices="choices"
    />
    <input
      v-else
      class="well"
      :value="modelValue"
      @change="emit('update:modelValue', ($event.target as HTMLInputElement).value)"
    />
  </label>
</template>

<style scoped>
.lost :deep(.el-select__wrapper) {
  box-shadow: 0 0 0 1px var(--berry) inset;
}
</style>
