<script setup lang="ts">
/** A pad: its name readable from afar, the time left running down behind it, a tap or a hold. */
import { computed } from 'vue'
import { padWords, type PadNow } from '@/logic/pads'
import { PAD_MARKS, type Face } from './marks'
import { usePress } from './usePress'

const props = defineProps<{
  name: string
  face: Face
  holds: boolean
  row: PadNow | undefined
  now: number
  hint?: string
  /** Low, with the mark beside the name. */
  compact?: boolean
  disabled?: boolean
}>()
const emit = defineEmits<{ press: []; letGo: [] }>()

const is = computed(() => padWords(props.row, props.now))
const { down, onDown, onUp, lift, onClick } = usePress(
  () => ({ holds: props.holds, open: props.row?.open ?? false, disabled: props.disabled ?? false }),
  () => emit('press'),
  () => emit('letGo'),
)

function onPointer(event: PointerEvent): void {
  if (event.button !== 0) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  onDown()
}

function onKey(event: KeyboardEvent): void {
  if (event.repeat || (event.key !== 'Enter' && event.key !== ' ')) return
  onDown()
}
defineExpose({ onDown, lift })
</script>

<template>
  <button
    type="button"
    class="pad"
    :class="[face.size, { lit: is.lit, down, open: row?.open, compact }]"
    :style="face.colour ? { '--of': `var(--${face.colour})` } : {}"
    :disabled="disabled"
    @pointerdown="onPointer"
    @pointerup="onUp"
    @pointercancel="onUp"
    @keydown="onKey"
    @keyup="onUp"
    @blur="onUp"
    @click="onClick"
    @contextmenu.prevent
  >
    <i v-if="is.left !== null" class="left" :style="{ transform: `scaleX(${is.left})` }"></i>
    <svg v-if="face.mark" class="mark" viewBox="0 0 24 24" aria-hidden="true">
      <path :d="PAD_MARKS[face.mark].path" fill="currentColor" fill-rule="evenodd" />
    </svg>
    <span class="name">{{ name }}</span>
    <span v-if="is.words" class="words" aria-hidden="true">{{ is.words }}</span>
    <span v-if="is.lit" class="unseen">is on</span>
    <kbd v-if="hint" class="hint">{{ hint }}</kbd>
  </button>
</template>

<style scoped>
.pad {
  --of: var(--line);
  position: relative;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  justify-content: center;
  gap: 2px;
  min-width: 0;
  min-height: var(--pad-height, 76px);
  padding: 8px 12px 8px 18px;
  overflow: hidden;
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: var(--corner);
  color: var(--ink);
  font-weight: 700;
  font-size: var(--pad-font, 17px);
  line-height: 1.12;
  text-align: left;
  cursor: pointer;
  touch-action: manipulation;
  user-select: none;
  -webkit-user-select: none;
  -webkit-touch-callout: none;
}

.pad::before {
  content: '';
  position: absolute;
  inset: 0 auto 0 0;
  width: 7px;
  background: var(--of);
}

.wide {
  grid-column: span 2;
}

.large {
  grid-column: span 2;
  grid-row: span 2;
  font-size: calc(var(--pad-font, 17px) * 1.4);
}

.compact {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  align-content: center;
  align-items: center;
  gap: 0;
  padding: 2px 16px 2px 14px;
}

.compact > .name,
.compact > .words {
  grid-column: 2;
}

.compact .mark {
  margin-right: 6px;
}

.compact .words {
  white-space: nowrap;
}

.pad:hover:not(:disabled) {
  border-color: var(--marmalade);
}

.pad.down {
  transform: translateY(1px);
  border-color: var(--marmalade);
}

.pad.lit {
  border-color: var(--mint);
  box-shadow: inset 0 0 0 1px var(--mint);
}

.pad:disabled {
  opacity: 0.45;
  cursor: default;
}

.left {
  position: absolute;
  inset: 0 0 0 7px;
  background: color-mix(in oklab, var(--mint) 24%, transparent);
  transform-origin: left;
}

.mark {
  position: relative;
  width: 1.25em;
  height: 1.25em;
  flex: none;
  color: var(--of);
}

.name {
  position: relative;
  flex: none;
  max-width: 100%;
  overflow: hidden;
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: var(--pad-lines, 2);
  overflow-wrap: anywhere;
}

.words {
  position: relative;
  font-weight: 400;
  font-size: 0.8em;
  color: var(--soft);
}

.lit .words {
  color: var(--mint);
  font-weight: 700;
}

.hint {
  position: absolute;
  top: 4px;
  right: 6px;
  font: 700 11px/1.3 var(--text);
  color: var(--soft);
}
</style>
