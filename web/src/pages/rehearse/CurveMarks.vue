<script setup lang="ts">
/**
 * Other events on the evening's curve: raids as flags, disconnected gear as bars, changes by hand as marks; each can be dragged, moved
 * by keys, removed.
 */
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import { byKey, slider, useHandle } from '@/composables/useHandle'
import { elseMoved, elseWithout, type Audience, type Else, type ElseList } from '@/logic/nights'

const props = defineProps<{ audience: Audience; width: number; foot: number }>()
const emit = defineEmits<{ change: [fields: Partial<Audience>] }>()

const book = useBook()

const length = computed(() => props.audience.length_min)
const x = (minute: number): number => (minute / length.value) * props.width
const minutes = (px: number): number => (px / (props.width || 1)) * length.value

const { held, drag } = useHandle<Partial<Audience>>((fields) => emit('change', fields))
/** The current state, including what is being dragged. */
const shown = computed(() => ({ ...props.audience, ...held.value }))

/** Drags one by the pointer's distance; `field` is what that changes. */
function take<K extends ElseList>(event: PointerEvent, list: K, index: number, field: keyof Else<K>): void {
  event.preventDefault()
  const from = event.clientX
  const before = Number(props.audience[list][index]?.[field as 'at_min'] ?? 0)
  drag(event, (moved) => put(list, index, field, before + minutes(moved.clientX - from)))
}
function put<K extends ElseList>(
  list: K,
  index: number,
  field: keyof Else<K>,
  minute: number,
): Partial<Audience> {
  return elseMoved(props.audience, list, index, { [field]: Math.round(minute) } as Partial<Else<K>>)
}
function key<K extends ElseList>(event: KeyboardEvent, list: K, index: number, field: keyof Else<K>): void {
  const now = Number(props.audience[list][index]?.[field as 'at_min'] ?? 0)
  const by = (minute: number) => () => emit('change', put(list, index, field, now + minute))
  const out = (): void => emit('change', elseWithout(props.audience, list, index))
  byKey(event, {
    ArrowLeft: by(-1),
    ArrowRight: by(1),
    PageDown: by(-10),
    PageUp: by(10),
    Delete: out,
    Backspace: out,
  })
}
/** Makes one of them a slider; `field` is what it sets. */
function mark<K extends ElseList>(
  list: K,
  index: number,
  field: keyof Else<K>,
  label: string,
  least = 0,
): Record<string, unknown> {
  const now = Number(shown.value[list][index]?.[field as 'at_min'] ?? 0)
  return {
    ...slider(label, now, least, length.value),
    onPointerdown: (event: PointerEvent) => take(event, list, index, field),
    onKeydown: (event: KeyboardEvent) => key(event, list, index, field),
  }
}
const turned = (at: number): boolean => x(at) > props.width - 100
</script>

<template>
  <g data-test="marks">
    <template v-for="(outage, i) in shown.outages" :key="`o${i}`">
      <rect
        class="outage"
        :x="x(outage.at_min)"
        :width="Math.max(4, x(outage.for_min))"
        :y="foot - 12"
        height="12"
        rx="2"
        v-bind="mark('outages', i, 'at_min', `${book.gearName(outage.gear)} goes away at minute`)"
        :data-test="`outage-${i}`"
      >
        <title>{{ book.gearName(outage.gear) }} is disconnected for {{ outage.for_min }} min</title>
      </rect>
      <rect
        class="end"
        :x="x(outage.at_min + outage.for_min) - 4"
        width="8"
        :y="foot - 14"
        height="14"
        rx="2"
        v-bind="
          mark(
            'outages',
            i,
            'for_min',
            `${book.gearName(outage.gear)} is disconnected for this many minutes`,
            1,
          )
        "
        :data-test="`outage-end-${i}`"
      />
    </template>
    <path
      v-for="(hand, i) in shown.hands"
      :key="`h${i}`"
      class="hand"
      :d="`M${x(hand.at_min) - 9},${foot}h18l-9,-17z`"
      v-bind="mark('hands', i, 'at_min', `By hand, ${hand.path} becomes ${hand.value} at minute`)"
      :data-test="`hand-${i}`"
    >
      <title>By hand: {{ hand.path }} becomes {{ hand.value }}</title>
    </path>
    <g
      v-for="(raid, i) in shown.raids"
      :key="`r${i}`"
      class="raid"
      :transform="`translate(${x(raid.at_min)},0)`"
      v-bind="mark('raids', i, 'at_min', `A raid of ${raid.viewers} at minute`)"
      :data-test="`raid-${i}`"
    >
      <line y1="8" :y2="foot" class="pole" />
      <path :d="turned(raid.at_min) ? 'M0,6h-92l6,9l-6,9h92z' : 'M0,6h92l-6,9l6,9h-92z'" class="flag" />
      <text :x="turned(raid.at_min) ? -80 : 8" y="20">raid of {{ raid.viewers }}</text>
    </g>
  </g>
</template>

<style scoped>
.pole {
  stroke: var(--sky);
  stroke-width: 2;
}

.flag {
  fill: var(--sky);
}

.raid,
.outage,
.end,
.hand {
  cursor: ew-resize;
}

.raid text {
  fill: var(--ground);
  font-size: 12px;
  font-weight: 700;
}

.outage {
  fill: var(--berry);
}

.end {
  fill: var(--ink);
  stroke: var(--berry);
  stroke-width: 2;
}

.hand {
  fill: var(--mint);
  stroke: var(--ground);
  stroke-width: 2;
}
</style>
