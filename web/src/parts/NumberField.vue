<script setup lang="ts">
/** A number: typed, stepped by its buttons or the arrow keys, and kept within its bounds. */
import { nextTick, ref, watch } from 'vue'
import { ElInputNumber } from 'element-plus'

const props = defineProps<{
  modelValue: number | null | undefined
  least?: number
  most?: number
  step?: number
  /** Whole numbers only. */
  whole?: boolean
  /** May be left empty. */
  optional?: boolean
  /** Too narrow for buttons. */
  narrow?: boolean
  hint?: string
}>()
const emit = defineEmits<{ 'update:modelValue': [value: number]; clear: [] }>()

/** A field being edited keeps its value: changes from elsewhere show once the edit is finished. */
const shown = ref(props.modelValue)
let inHand = false
watch(
  () => props.modelValue,
  (value) => {
    if (!inHand) shown.value = value
  },
)

function takeInHand(event: FocusEvent | KeyboardEvent): void {
  const isUndo =
    event instanceof KeyboardEvent && (event.ctrlKey || event.metaKey) && /^[yz]$/i.test(event.key)
  if (!isUndo) inHand = true
}

function letGo(): void {
  inHand = false
  shown.value = props.modelValue
}

/** Shows the book's value: a refused number goes back by itself. */
const refused = ref(0)
function take(value: number | null | undefined): void {
  if (typeof value === 'number') emit('update:modelValue', value)
  else if (props.optional) emit('clear')
  letGo()
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
    :model-value="shown ?? undefined"
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
    @focusin="takeInHand"
    @keydown="takeInHand"
    @focusout="letGo"
  />
</template>

<style scoped>
.number-field {
  width: 100%;
  min-width: 0;
}
</style>
