<script setup lang="ts">
/** A wearable as it reports itself: its sides, their lines, its pads lit by their level; with `paint` they can be painted. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

type Touch = Schemas['TouchOut']
const props = defineProps<{
  pads: readonly Touch[]
  outlines?: readonly Schemas['OutlineOut'][]
  levels: readonly number[]
  paint?: boolean
}>()
const emit = defineEmits<{ paint: [pad: Touch] }>()
const WIDE = 200
const HIGH = 250

const sides = computed(() =>
  (['front', 'back'] as const)
    .map((name) => ({
      name,
      lines: (props.outlines ?? []).filter((line) => line.side === name).map((line) => path(line.points)),
      pads: props.pads
        .map((pad, i) => ({ pad, level: props.levels[i] ?? 0 }))
        .filter((one) => one.pad.side === name),
    }))
    .filter((side) => side.pads.length || side.lines.length),
)

function path(points: readonly number[]): string {
  const at: string[] = []
  for (let i = 0; i + 1 < points.length; i += 2) at.push(`${points[i]! * WIDE} ${points[i + 1]! * HIGH}`)
  return `M${at.join('L')}`
}

function over(event: PointerEvent, pad: Touch): void {
  if (props.paint && event.buttons === 1) emit('paint', pad)
}

function press(pad: Touch): void {
  if (props.paint) emit('paint', pad)
}
</script>

<template>
  <div class="wearable" :class="{ paint }" data-test="wearable">
    <svg
      v-for="side in sides"
      :key="side.name"
      :viewBox="`0 -2 ${WIDE} ${HIGH + 26}`"
      role="group"
      :aria-label="`The wearable, ${side.name}`"
    >
      <rect v-if="!side.lines.length" class="edge" x="2" y="2" :width="WIDE - 4" :height="HIGH - 4" rx="24" />
      <path
        v-for="(line, i) in side.lines"
        :key="i"
        :d="i ? line : `${line}z`"
        :class="i ? 'line' : 'edge'"
      />
      <circle
        v-for="{ pad, level } in side.pads"
        :key="pad.id"
        :cx="pad.x * WIDE"
        :cy="pad.y * HIGH"
        :r="Math.max(3, (pad.size * WIDE) / 2)"
        :fill="`color-mix(in oklab, var(--brick) ${Math.min(100, Math.round(level * 110))}%, var(--ground))`"
        :data-pad="pad.id"
        :data-level="level"
        :role="paint ? 'button' : undefined"
        :tabindex="paint ? 0 : undefined"
        :aria-label="`${pad.title || pad.id}, ${Math.round(level * 100)} %`"
        @pointerdown.prevent="press(pad)"
        @pointerenter="over($event, pad)"
        @keydown.enter.prevent="press(pad)"
        @keydown.space.prevent="press(pad)"
      >
        <title>{{ pad.title || pad.id }}</title>
      </circle>
      <text :x="WIDE / 2" :y="HIGH + 18" text-anchor="middle">{{ side.name }}</text>
    </svg>
  </div>
</template>

<style scoped>
.wearable {
  display: flex;
  gap: 10px;
  padding: 8px;
  height: 100%;
  width: 100%;
  box-sizing: border-box;
}

svg {
  flex: 1;
  min-width: 0;
  height: 100%;
}

.edge {
  fill: var(--raised);
  stroke: var(--line);
  stroke-width: 2.5;
  stroke-linejoin: round;
}

.line {
  fill: none;
  stroke: var(--line);
  stroke-width: 2;
  stroke-linecap: round;
  stroke-linejoin: round;
}

circle {
  stroke: var(--soft);
  stroke-width: 1.5;
}

text {
  fill: var(--soft);
  font-size: 17px;
}

.paint circle {
  cursor: crosshair;
}
</style>
