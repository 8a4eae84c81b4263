<script setup lang="ts">
/** A number: typed, stepped by its buttons or the arrow keys, and held between its ends. */
import { nextTick, ref } from 'vue'
import { ElInputNumber } from 'element-plus'

const props = defineProps<{
  modelValue: number | null | undefined
  least?: number
  most?: number
  step?: number
  /** Has no fraction. */
  whole?: boolean
  /** May be left empty. */
  optional?: boolean
  /** Too narrow for buttons. */
  narrow?: boolean
  hint?: string
}>()
const emit = defineEmits<{ 'update:modelValue': [value: number]; clear: [] }>()

/** What is shown is what is in the book: a number that was not taken goes back by itself. */
const refused = ref(0)
function take(value: number | null | undefined): void {
  if (typeof value === 'number') emit('update:modelValue', value)
  else if (props.optional) emit('clear')
  void nextTick(() => {
    if ((props.modelValue ?? null) !== (value ?? null)) refused.value += 1
  })
}
</script>

<template>
  <ElInputNumber
    :key="refused"
    class="number-field"
    :class="{ narrow }"
    :model-value="modelValue ?? undefined"
    :min="least ?? -Infinity"
    :max="most ?? Infinity"
    :step="step ?? 1"
    :precision="whole ? 0 : undefined"
    :placeholder="hint ?? ''"
    :controls="!narrow"
    controls-position="right"
    :value-on-clear="null"
    align="left"
    @change="take"
  />
</template>

<style scoped>
.number-field {
  width: 100%;
  min-width: 0;
}
</style>
