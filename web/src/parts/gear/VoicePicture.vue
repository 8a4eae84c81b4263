<script setup lang="ts">
/** The voice box as a reed: its preset, its pitch, its mix. */
import { computed } from 'vue'

const props = defineProps<{ preset: string; pitch: number; mix: number }>()
const wave = computed(() => {
  const turns = 5 * 2 ** (props.pitch / 12)
  const points = Array.from({ length: 121 }, (_, i) => {
    const t = i / 120
    const plain = Math.sin(t * Math.PI * 2 * 5)
    const shaped =
      Math.sign(Math.sin(t * Math.PI * 2 * turns)) * Math.abs(Math.sin(t * Math.PI * 2 * turns)) ** 0.4
    const changed = props.preset === 'Plain' ? Math.sin(t * Math.PI * 2 * turns) : shaped
    return `${10 + t * 180},${58 - (plain * (1 - props.mix) + changed * props.mix) * 30}`
  })
  return points.join(' ')
})
</script>

<template>
  <svg
    viewBox="0 0 200 116"
    role="img"
    :aria-label="`Voice box: ${preset}`"
    data-test="voice"
    :data-preset="preset"
  >
    <rect x="4" y="4" width="192" height="108" rx="10" fill="var(--raised)" stroke="var(--line)" />
    <polyline :points="wave" fill="none" stroke="var(--plum)" stroke-width="4" stroke-linejoin="round" />
    <text x="100" y="106" text-anchor="middle" font-size="14" font-weight="700" fill="var(--ink)">
      {{ preset }}
    </text>
  </svg>
</template>
