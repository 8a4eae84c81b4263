<script setup lang="ts">
/** A jar of viewers: heads, as many as are in it. */
import { computed } from 'vue'
import { layerColour } from './layers'

const props = defineProps<{ count?: number; small?: boolean }>()
const ROW = 4
const heads = computed(() =>
  Array.from({ length: Math.min(16, props.count ?? 6) }, (_, i) => ({
    x: 36 + (i % ROW) * 23 + (Math.floor(i / ROW) % 2) * 6,
    y: 172 - Math.floor(i / ROW) * 31,
    colour: layerColour(i),
  })),
)
const GLASS = 'M36 30h68v6c0 8 22 10 22 30v110a20 20 0 0 1-20 20H34a20 20 0 0 1-20-20V66c0-20 22-22 22-30z'
</script>

<template>
  <svg viewBox="0 0 140 200" :width="small ? 56 : 252" :height="small ? 80 : 360" aria-hidden="true">
    <g v-for="(head, i) in heads" :key="i" :fill="head.colour">
      <circle :cx="head.x" :cy="head.y - 9" r="7" />
      <path :d="`M${head.x - 10} ${head.y + 13}v-5a10 9 0 0 1 20 0v5z`" />
    </g>
    <path :d="GLASS" fill="none" stroke="var(--ink)" stroke-width="3.5" />
    <rect x="30" y="8" width="80" height="20" rx="5" fill="var(--marmalade)" />
  </svg>
</template>
