<script setup lang="ts">
import { computed } from 'vue'

const props = withDefaults(defineProps<{ wave: number[]; colour?: string }>(), { colour: 'var(--straw)' })
const path = computed(() => {
  const n = props.wave.length
  if (!n) return ''
  const up = props.wave.map((v, i) => `${((i / (n - 1)) * 100).toFixed(2)},${(50 - v * 48).toFixed(1)}`)
  const down = props.wave
    .map((v, i) => `${((i / (n - 1)) * 100).toFixed(2)},${(50 + v * 48).toFixed(1)}`)
    .reverse()
  return `M${[...up, ...down].join('L')}Z`
})
</script>

<template>
  <svg viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden="true">
    <path :d="path" :fill="colour" />
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  height: 100%;
}
</style>
