<script setup lang="ts">
/** The value of a setting of gear, by its type: on or off, a number, a colour, a choice, a text. */
import { ElOption } from 'element-plus'
import type { SettingKind } from '@/composables/useGear'
import NumberField from './NumberField.vue'
import PickField from './PickField.vue'

export type SettingValue = boolean | number | string
defineProps<{ kind?: SettingKind | undefined; modelValue: SettingValue; narrow?: boolean }>()
const emit = defineEmits<{ 'update:modelValue': [value: SettingValue] }>()
</script>

<template>
  <PickField
    v-if="!kind || kind.type === 'bool'"
    :model-value="modelValue === false ? 'off' : 'on'"
    @update:model-value="emit('update:modelValue', $event === 'on')"
  >
    <ElOption value="on" label="on" />
    <ElOption value="off" label="off" />
  </PickField>
  <span v-else-if="kind.type === 'number'" class="measured">
    <NumberField
      :least="kind.min ?? undefined"
      :most="kind.max ?? undefined"
      :step="kind.step ?? undefined"
      :narrow="narrow"
      :model-value="Number(modelValue)"
      @update:model-value="emit('update:modelValue', $event)"
    />
    <span v-if="kind.unit" class="soft">{{ kind.unit }}</span>
  </span>
  <input
    v-else-if="kind.type === 'colour'"
    type="color"
    :value="String(modelValue)"
    @change="emit('update:modelValue', ($event.target as HTMLInputElement).value)"
  />
  <PickField
    v-else-if="kind.type === 'choice'"
    :model-value="String(modelValue)"
    @update:model-value="emit('update:modelValue', $event)"
  >
    <ElOption v-for="choice in kind.choices" :key="choice" :value="choice" :label="choice" />
  </PickField>
  <input
    v-else
    class="well"
    :value="String(modelValue)"
    @change="emit('update:modelValue', ($event.target as HTMLInputElement).value)"
  />
</template>

<style scoped>
.measured {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
