<script setup lang="ts">
/** The night as a time line: lanes with their runs, who waited, who was turned away, what was held and shown. Drawn by hand, as this is
 * the job itself; a table of the calls backs it. */
import { useElementSize } from '@vueuse/core'
import { computed, onMounted, ref, watch } from 'vue'
import { followPointer } from '@/composables/followPointer'
import { theme } from '@/composables/useLook'
import { slider } from '@/composables/useHandle'
import { useReasons } from '@/composables/useReasons'
import { clock, within, zoomed, type Timeline, type Window } from '@/logic/nights'
import { atOf, bandsOf, drawNight, hitOf, inkOf, LEFT, type Hit } from './drawNight'

const props = defineProps<{ night: Timeline; at: number; chosen: string; label: string }>()
const window_ = defineModel<Window>('window', { required: true })
const emit = defineEmits<{ 'update:at': [ms: number]; open: [hit: Hit] }>()

const frame = ref<HTMLElement>()
const canvas = ref<HTMLCanvasElement>()
const { width } = useElementSize(frame)
const reasons = useReasons()
const height = computed(() => bandsOf(props.night).height)
const hit = ref<Hit | null>(null)
const hitY = ref(0)
const BY_KEY_MS = 5000

function draw(): void {
  const node = canvas.value
  const context = node?.getContext('2d')
  if (!node || !context || !width.value) return
  const ratio = globalThis.devicePixelRatio || 1
  node.width = width.value * ratio
  node.height = height.value * ratio
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  drawNight(context, {
    night: props.night,
    window: window_.value,
    width: width.value,
    at: props.at,
    chosen: props.chosen,
    ink: inkOf(node),
  })
}
onMounted(draw)
watch([() => props.night, () => props.at, () => props.chosen, window_, width, theme], draw, { flush: 'post' })

function place(event: MouseEvent): [number, number] {
  const box = canvas.value?.getBoundingClientRect()
  return [event.clientX - (box?.left ?? 0), event.clientY - (box?.top ?? 0)]
}
function scrub(event: MouseEvent): void {
  const at = atOf(place(event)[0], window_.value, width.value)
  emit('update:at', Math.round(Math.min(props.night.length, Math.max(0, at))))
}
function look(event: MouseEvent): void {
  const [x, y] = place(event)
  hitY.value = y
  hit.value = hitOf(props.night, window_.value, width.value, x, y, reasons.value)
}

/** A press scrubs, or opens what is there; a drag on the axis scrubs, below it the night moves. */
function down(event: PointerEvent): void {
  const [x, y] = place(event)
  const before = window_.value
  const scrubs = y < 24
  let moved = false
  if (scrubs) scrub(event)
  followPointer(
    event,
    (now) => {
      if (Math.abs(now.clientX - event.clientX) > 3) moved = true
      if (scrubs) scrub(now)
      else if (moved) {
        const by = ((event.clientX - now.clientX) / Math.max(1, width.value - LEFT)) * before.span
        window_.value = within({ ...before, from: before.from + by }, props.night.length)
      }
    },
    (last) => {
      if (moved || scrubs || last.type !== 'pointerup') return
      scrub(last)
      const there = hitOf(props.night, window_.value, width.value, x, y, reasons.value)
      if (there?.call || there?.cue) emit('open', there)
    },
  )
}
function wheel(event: WheelEvent): void {
  const at = atOf(place(event)[0], window_.value, width.value)
  window_.value = zoomed(window_.value, event.deltaY < 0 ? 1.25 : 0.8, at, props.night.length)
}

function key(event: KeyboardEvent): void {
  const by = BY_KEY_MS * (event.shiftKey ? 12 : 1)
  const { length } = props.night
  if (event.key === 'ArrowRight') emit('update:at', Math.min(length, props.at + by))
  else if (event.key === 'ArrowLeft') emit('update:at', Math.max(0, props.at - by))
  else if (event.key === 'Home') emit('update:at', 0)
  else if (event.key === 'End') emit('update:at', length)
  else if (event.key === '+') window_.value = zoomed(window_.value, 1.5, props.at, length)
  else if (event.key === '-') window_.value = zoomed(window_.value, 1 / 1.5, props.at, length)
  else if (event.key === '0') window_.value = { from: 0, span: length }
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <div ref="frame" class="frame">
    <canvas
      ref="canvas"
      :style="{ width: `${width}px`, height: `${height}px` }"
      v-bind="slider(label, at, 0, night.length)"
      :aria-valuetext="clock(at, true)"
      data-test="score"
      @pointerdown.prevent="down"
      @mousemove="look"
      @mouseleave="hit = null"
      @wheel.prevent="wheel"
      @keydown="key"
    ></canvas>
    <div
      v-if="hit"
      class="hint small"
      :style="{ left: `${Math.min(hit.x + 12, width - 250)}px`, top: `${hitY + 16}px` }"
    >
      <div v-for="(words, i) in hit.words" :key="i" :class="{ soft: i > 0 }">{{ words }}</div>
    </div>
  </div>
</template>

<style scoped>
.frame {
  position: relative;
  min-width: 0;
}

canvas {
  display: block;
  border-radius: 6px;
  touch-action: pan-y;
  cursor: crosshair;
}

.hint {
  position: absolute;
  z-index: 5;
  max-width: 240px;
  padding: 6px 10px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--raised);
  pointer-events: none;
}
</style>
