<script setup lang="ts">
/** The evening, drawn: how busy it is when, raids as flags, gear that is away as bars, hands as marks. All of it is dragged. */
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { followPointer } from '@/composables/followPointer'
import {
  HIGHEST,
  levelAt,
  pointAdded,
  pointMoved,
  pointRemoved,
  type Audience,
  type CurvePoint,
} from '@/logic/nights'

const props = defineProps<{ audience: Audience }>()
const emit = defineEmits<{ change: [fields: Partial<Audience>] }>()

const HEIGHT = 132
const FOOT = 22
const TOP = 30
const frame = ref<HTMLElement>()
const { width } = useElementSize(frame)
const length = computed(() => props.audience.length_min)
/** What is dragged is shown at once, and told when it is let go. */
const held = ref<CurvePoint[] | null>(null)
const heldRaid = ref<{ index: number; at: number } | null>(null)
const curve = computed(() => held.value ?? props.audience.curve)

const x = (minute: number): number => (minute / length.value) * width.value
const y = (level: number): number => TOP + (1 - level / HIGHEST) * (HEIGHT - TOP - FOOT)
const minuteOf = (px: number): number =>
  Math.min(length.value, Math.max(0, (px / (width.value || 1)) * length.value))
const levelOf = (px: number): number =>
  Math.min(HIGHEST, Math.max(0, (1 - (px - TOP) / (HEIGHT - TOP - FOOT)) * HIGHEST))

const path = computed(() => {
  const ends = [
    { at_min: 0, level: levelAt(curve.value, 0) },
    ...curve.value,
    { at_min: length.value, level: levelAt(curve.value, length.value) },
  ]
  return ends.map((point, i) => `${i ? 'L' : 'M'}${x(point.at_min)},${y(point.level)}`).join('')
})
const ticks = computed(() => {
  const step = [5, 10, 15, 30, 60, 120].find((one) => length.value / one <= 9) ?? 240
  return Array.from({ length: Math.floor(length.value / step) + 1 }, (_, i) => i * step)
})

function place(event: PointerEvent | MouseEvent): { minute: number; level: number } {
  const box = frame.value?.getBoundingClientRect()
  return {
    minute: minuteOf(event.clientX - (box?.left ?? 0)),
    level: levelOf(event.clientY - (box?.top ?? 0)),
  }
}

function dragPoint(event: PointerEvent, index: number): void {
  followPointer(
    event,
    (moved) => {
      const { minute, level } = place(moved)
      held.value = pointMoved(curve.value, index, minute, level, length.value)
    },
    let_go,
  )
}

function let_go(event: PointerEvent): void {
  const drawn = held.value
  held.value = null
  if (drawn && event.type === 'pointerup') emit('change', { curve: drawn })
}

function add(event: MouseEvent): void {
  const { minute, level } = place(event)
  emit('change', { curve: pointAdded(props.audience.curve, minute, level, length.value)[0] })
}

const KEYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 5],
  ArrowDown: [0, -5],
}
function keyPoint(event: KeyboardEvent, index: number): void {
  const point = props.audience.curve[index]
  if (!point) return
  const by = KEYS[event.key]
  if (by) {
    const moved = pointMoved(
      props.audience.curve,
      index,
      point.at_min + by[0],
      point.level + by[1],
      length.value,
    )
    emit('change', { curve: moved })
  } else if (event.key === 'Delete' || event.key === 'Backspace') {
    emit('change', { curve: pointRemoved(props.audience.curve, index) })
  } else if (event.key === 'Enter' || event.key === '+') {
    const next = props.audience.curve[index + 1]?.at_min ?? length.value
    const minute = (point.at_min + next) / 2
    emit('change', { curve: pointAdded(props.audience.curve, minute, point.level, length.value)[0] })
  } else return
  event.preventDefault()
  event.stopPropagation()
}

function dragRaid(event: PointerEvent, index: number): void {
  followPointer(
    event,
    (moved) => (heldRaid.value = { index, at: Math.round(place(moved).minute) }),
    (last) => {
      const there = heldRaid.value
      heldRaid.value = null
      if (there && last.type === 'pointerup') moveRaid(there.index, there.at)
    },
  )
}
function moveRaid(index: number, at: number): void {
  const at_min = Math.min(length.value, Math.max(0, at))
  const raids = props.audience.raids.map((raid, i) => (i === index ? { ...raid, at_min } : raid))
  emit('change', { raids })
}
function keyRaid(event: KeyboardEvent, index: number): void {
  const raid = props.audience.raids[index]
  if (!raid) return
  if (event.key === 'ArrowLeft') moveRaid(index, raid.at_min - 1)
  else if (event.key === 'ArrowRight') moveRaid(index, raid.at_min + 1)
  else if (event.key === 'Delete' || event.key === 'Backspace')
    emit('change', { raids: props.audience.raids.filter((_, i) => i !== index) })
  else return
  event.preventDefault()
  event.stopPropagation()
}
const raidAt = (index: number, at: number): number =>
  heldRaid.value?.index === index ? heldRaid.value.at : at
</script>

<template>
  <div ref="frame" class="frame">
    <svg
      v-if="width"
      :width="width"
      :height="HEIGHT"
      role="group"
      aria-label="How busy it is when; twice pressed, a point comes"
      data-test="curve"
      @dblclick="add"
    >
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
      <rect
        v-for="(outage, i) in audience.outages"
        :key="`o${i}`"
        class="outage"
        :x="x(outage.at_min)"
        :width="Math.max(2, x(outage.for_min))"
        :y="HEIGHT - FOOT - 7"
        height="7"
      >
        <title>{{ outage.gear }} is away for {{ outage.for_min }} min</title>
      </rect>
      <path :d="`${path}L${width},${HEIGHT - FOOT}L0,${HEIGHT - FOOT}Z`" class="ground" />
      <path :d="path" class="line" />
      <path
        v-for="(hand, i) in audience.hands"
        :key="`h${i}`"
        class="hand"
        :d="`M${x(hand.at_min) - 5},${HEIGHT - FOOT}h10l-5,-9z`"
      >
        <title>By hand: {{ hand.path }} is {{ hand.value }}</title>
      </path>
      <circle
        v-for="(point, i) in curve"
        :key="i"
        class="point"
        :cx="x(point.at_min)"
        :cy="y(point.level)"
        r="7"
        tabindex="0"
        role="slider"
        :aria-label="`How busy at minute ${point.at_min}`"
        :aria-valuenow="point.level"
        aria-valuemin="0"
        :aria-valuemax="HIGHEST"
        :data-test="`point-${i}`"
        @pointerdown.prevent="dragPoint($event, i)"
        @dblclick.stop="emit('change', { curve: pointRemoved(audience.curve, i) })"
        @keydown="keyPoint($event, i)"
      />
      <g
        v-for="(raid, i) in audience.raids"
        :key="`r${i}`"
        class="raid"
        :transform="`translate(${x(raidAt(i, raid.at_min))},0)`"
        tabindex="0"
        role="slider"
        :aria-label="`A raid of ${raid.viewers} at minute`"
        :aria-valuenow="raid.at_min"
        aria-valuemin="0"
        :aria-valuemax="length"
        @pointerdown.prevent="dragRaid($event, i)"
        @keydown="keyRaid($event, i)"
      >
        <line y1="8" :y2="HEIGHT - FOOT" class="pole" />
        <path
          :d="x(raid.at_min) > width - 90 ? 'M0,6h-74l6,9l-6,9h74z' : 'M0,6h74l-6,9l6,9h-74z'"
          class="flag"
        />
        <text :x="x(raid.at_min) > width - 90 ? -62 : 8" y="20">raid of {{ raid.viewers }}</text>
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

.pole {
  stroke: var(--sky);
  stroke-width: 2;
}

.flag {
  fill: var(--sky);
}

.raid {
  cursor: ew-resize;
}

.raid text {
  fill: var(--ground);
  font-weight: 700;
}

.outage {
  fill: var(--berry);
}

.hand {
  fill: var(--mint);
}
</style>
