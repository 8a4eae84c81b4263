<script setup lang="ts">
/** The evening, drawn: how busy it is when, as a line with draggable points; other events are marks on it. */
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { byKey, slider, useHandle } from '@/composables/useHandle'
import {
  HIGHEST,
  levelAt,
  pointAdded,
  pointMoved,
  pointRemoved,
  type Audience,
  type CurvePoint,
} from '@/logic/nights'
import CurveMarks from './CurveMarks.vue'

const props = defineProps<{ audience: Audience }>()
const emit = defineEmits<{ change: [fields: Partial<Audience>] }>()

const HEIGHT = 132
const FOOT = 22
const TOP = 30
/** The width of a minute’s label, with its gap. */
const TICK_PX = 72
/** Room for the labels at the ends. */
const SIDE = 12
const frame = ref<HTMLElement>()
const { width: whole } = useElementSize(frame)
const width = computed(() => Math.max(0, whole.value - 2 * SIDE))
const length = computed(() => props.audience.length_min)
const { held, drag } = useHandle<CurvePoint[]>((drawn) => emit('change', { curve: drawn }))
const curve = computed(() => held.value ?? props.audience.curve)

const x = (minute: number): number => (minute / length.value) * width.value
/** A curve made elsewhere may go higher. */
const highest = computed(() => Math.max(HIGHEST, ...props.audience.curve.map((point) => point.level)))
const y = (level: number): number => TOP + (1 - level / highest.value) * (HEIGHT - TOP - FOOT)
const minuteOf = (px: number): number =>
  Math.min(length.value, Math.max(0, (px / (width.value || 1)) * length.value))
const levelOf = (px: number): number =>
  Math.min(highest.value, Math.max(0, (1 - (px - TOP) / (HEIGHT - TOP - FOOT)) * highest.value))

const path = computed(() => {
  const ends = [
    { at_min: 0, level: levelAt(curve.value, 0) },
    ...curve.value,
    { at_min: length.value, level: levelAt(curve.value, length.value) },
  ]
  return ends.map((point, i) => `${i ? 'L' : 'M'}${x(point.at_min)},${y(point.level)}`).join('')
})
const ticks = computed(() => {
  const room = Math.max(1, Math.floor(width.value / TICK_PX))
  const step = [5, 10, 15, 30, 60, 120].find((one) => length.value / one <= room) ?? 240
  return Array.from({ length: Math.floor(length.value / step) + 1 }, (_, i) => i * step)
})

function place(event: PointerEvent | MouseEvent): { minute: number; level: number } {
  const box = frame.value?.getBoundingClientRect()
  return {
    minute: minuteOf(event.clientX - (box?.left ?? 0) - SIDE),
    level: levelOf(event.clientY - (box?.top ?? 0)),
  }
}

function dragPoint(event: PointerEvent, index: number): void {
  const before = props.audience.curve
  drag(event, (moved) => {
    const { minute, level } = place(moved)
    return pointMoved(before, index, minute, level, length.value, highest.value)
  })
}

function add(event: MouseEvent): void {
  const { minute, level } = place(event)
  emit('change', { curve: pointAdded(props.audience.curve, minute, level, length.value)[0] })
}

function keyPoint(event: KeyboardEvent, index: number): void {
  const { curve: drawn } = props.audience
  const point = drawn[index]
  if (!point) return
  const by = (minute: number, level: number) => () =>
    emit('change', {
      curve: pointMoved(
        drawn,
        index,
        point.at_min + minute,
        point.level + level,
        length.value,
        highest.value,
      ),
    })
  const out = (): void => emit('change', { curve: pointRemoved(drawn, index) })
  const more = (): void => {
    const minute = (point.at_min + (drawn[index + 1]?.at_min ?? length.value)) / 2
    emit('change', { curve: pointAdded(drawn, minute, point.level, length.value)[0] })
  }
  byKey(event, {
    ArrowLeft: by(-1, 0),
    ArrowRight: by(1, 0),
    ArrowUp: by(0, 5),
    ArrowDown: by(0, -5),
    Delete: out,
    Backspace: out,
    Enter: more,
    '+': more,
  })
}
</script>

<template>
  <div ref="frame" class="frame">
    <svg
      v-if="width"
      :width="whole"
      :height="HEIGHT"
      role="group"
      aria-label="Activity over time; double-click to add a point"
      data-test="curve"
      @dblclick="add"
    >
      <g :transform="`translate(${SIDE},0)`">
        <g v-for="tick in ticks" :key="tick">
          <line :x1="x(tick)" :x2="x(tick)" :y1="TOP" :y2="HEIGHT - FOOT" class="grid" />
          <text
            :x="x(tick)"
            :y="HEIGHT - 6"
            class="tick"
            :text-anchor="tick === 0 ? 'start' : tick === length ? 'end' : 'middle'"
          >
            {{ tick }} min
          </text>
        </g>
        <path :d="`${path}L${width},${HEIGHT - FOOT}L0,${HEIGHT - FOOT}Z`" class="ground" />
        <path :d="path" class="line" />
        <CurveMarks
          :audience="audience"
          :width="width"
          :foot="HEIGHT - FOOT"
          @change="emit('change', $event)"
        />
        <circle
          v-for="(point, i) in curve"
          :key="i"
          class="point"
          :cx="x(point.at_min)"
          :cy="y(point.level)"
          r="7"
          v-bind="slider(`Activity at minute ${point.at_min}`, point.level, 0, highest)"
          :data-test="`point-${i}`"
          @pointerdown.prevent="dragPoint($event, i)"
          @dblclick.stop="emit('change', { curve: pointRemoved(audience.curve, i) })"
          @keydown="keyPoint($event, i)"
        />
      </g>
    </svg>
  </div>
</template>

<style scoped>
.frame {
  min-width: 0;
  height: 132px;
  background: var(--ground);
  border-radius: 6px;
  overflow: hidden;
}

svg {
  display: block;
  touch-action: none;
}

.grid {
  stroke: var(--line);
  stroke-dasharray: 2 4;
}

.tick,
text {
  fill: var(--soft);
  font-size: 12px;
}

.ground {
  fill: var(--marmalade);
  opacity: 0.18;
}

.line {
  fill: none;
  stroke: var(--marmalade);
  stroke-width: 3;
}

.point {
  fill: var(--ground);
  stroke: var(--marmalade);
  stroke-width: 3;
  cursor: grab;
}

.point:focus-visible {
  fill: var(--marmalade);
}
</style>
