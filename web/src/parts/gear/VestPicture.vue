<script setup lang="ts">
/** The vest's cells, front and back, lit by their level; with `paint` they can be painted. */
const props = defineProps<{ cells: readonly number[]; paint?: boolean }>()
const emit = defineEmits<{ paint: [cell: number] }>()
const SIDES = [
  { name: 'front', from: 0 },
  { name: 'back', from: 20 },
] as const

function over(event: PointerEvent, cell: number): void {
  if (props.paint && event.buttons === 1) emit('paint', cell)
}
</script>

<template>
  <div class="vest" :class="{ paint }" data-test="vest">
    <svg
      v-for="side in SIDES"
      :key="side.name"
      viewBox="0 0 120 150"
      role="img"
      :aria-label="`The vest, ${side.name}`"
    >
      <path
        d="M34 4h16c2 10 18 10 20 0h16l26 14v126c0 2-2 4-4 4H12c-2 0-4-2-4-4V18z"
        fill="var(--raised)"
        stroke="var(--line)"
        stroke-width="2"
      />
      <g v-for="row in 5" :key="row">
        <rect
          v-for="column in 4"
          :key="column"
          :x="20 + (column - 1) * 21"
          :y="34 + (row - 1) * 22"
          width="17"
          height="18"
          rx="4"
          :fill="`color-mix(in oklab, var(--brick) ${Math.round((cells[side.from + (row - 1) * 4 + column - 1] ?? 0) * 100)}%, var(--ground))`"
          :data-cell="side.from + (row - 1) * 4 + column - 1"
          :data-level="cells[side.from + (row - 1) * 4 + column - 1] ?? 0"
          stroke="var(--line)"
          @pointerdown.prevent="paint && emit('paint', side.from + (row - 1) * 4 + column - 1)"
          @pointerenter="over($event, side.from + (row - 1) * 4 + column - 1)"
        />
      </g>
      <text x="60" y="24" text-anchor="middle" fill="var(--soft)" font-size="11">{{ side.name }}</text>
    </svg>
  </div>
</template>

<style scoped>
.vest {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  padding: 8px;
  height: 100%;
  width: 100%;
}

svg {
  width: 100%;
  height: 100%;
  min-height: 0;
}

.paint rect {
  cursor: crosshair;
}
</style>
