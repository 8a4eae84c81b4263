<script setup lang="ts">
/** A bar that runs down, with what is left; open ends say so. */
import { computed } from 'vue'
import { sayLeft } from '@/logic/duration'

const props = defineProps<{ since: number; until: number | null; now: number; colour?: string }>()
const part = computed(() => {
  if (props.until === null) return 1
  return Math.max(0, Math.min(1, (props.until - props.now) / Math.max(1, props.until - props.since)))
})
</script>

<template>
  <div class="bar-row">
    <div class="track">
      <div
        class="fill"
        :style="{ transform: `scaleX(${part})`, background: colour ?? 'var(--marmalade)' }"
      ></div>
    </div>
    <span class="far left">{{ until === null ? 'open' : sayLeft(until - now) }}</span>
  </div>
</template>

<style scoped>
.bar-row {
  display: flex;
  align-items: center;
  gap: 10px;
}

.track {
  flex: 1;
  height: 8px;
  background: var(--ground);
  border-radius: 4px;
  overflow: hidden;
}

.fill {
  height: 100%;
  transform-origin: left;
}

.left {
  min-width: 64px;
  text-align: right;
}
</style>
