<script setup lang="ts">
/** Where two panes meet: dragged, or moved by the arrow keys; pressed twice (or Home) it is as it was at first. The component
 * library's own can't be reached by the keyboard. `modelValue` is the size of the pane after it, in px. */
import { followPointer } from '@/composables/followPointer'

const props = defineProps<{
  modelValue: number
  least: number
  most: number
  upright?: boolean
  label: string
}>()
const emit = defineEmits<{ 'update:modelValue': [px: number]; reset: [] }>()
const STEP_PX = 16

function put(px: number): void {
  emit('update:modelValue', Math.round(Math.min(props.most, Math.max(props.least, px))))
}

function onDown(event: PointerEvent): void {
  const [before, x, y] = [props.modelValue, event.clientX, event.clientY]
  followPointer(event, (moved) => put(before + (props.upright ? x - moved.clientX : y - moved.clientY)))
}

function onKey(event: KeyboardEvent): void {
  const larger = props.upright ? 'ArrowLeft' : 'ArrowUp'
  const smaller = props.upright ? 'ArrowRight' : 'ArrowDown'
  if (event.key === 'Home') emit('reset')
  else if (event.key === larger) put(props.modelValue + STEP_PX)
  else if (event.key === smaller) put(props.modelValue - STEP_PX)
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <div
    class="edge"
    :class="{ upright }"
    role="separator"
    tabindex="0"
    :aria-label="label"
    :aria-orientation="upright ? 'vertical' : 'horizontal'"
    :aria-valuenow="modelValue"
    :aria-valuemin="least"
    :aria-valuemax="most"
    @pointerdown.prevent="onDown"
    @dblclick="emit('reset')"
    @keydown="onKey"
  ></div>
</template>

<style scoped>
.edge {
  cursor: row-resize;
  touch-action: none;
  background: linear-gradient(var(--line), var(--line)) center / 48px 3px no-repeat;
}

.edge.upright {
  cursor: col-resize;
  background-size: 3px 48px;
}

.edge:hover,
.edge:focus-visible {
  background-image: linear-gradient(var(--marmalade), var(--marmalade));
}
</style>
