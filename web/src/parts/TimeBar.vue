<script setup lang="ts">
/** A bar that runs down, with what is left; open ends say so. */
import { computed } from 'vue'
import { useLive } from '@/composables/useLive'
import TimeLeft from './TimeLeft.vue'

const props = defineProps<{ since: number; until: number | null; colour?: string }>()
const live = useLive()
/** The bar is redrawn only when the change is visible. */
const STEPS = 150
const part = computed(() => {
  if (props.until === null) return 1
  const left = (props.until - live.now) / Math.max(1, props.until - props.since)
  return Math.ceil(Math.max(0, Math.min(1, left)) * STEPS) / STEPS
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
    <span class="far left"
      ><template v-if="until === null">open</template><TimeLeft v-else :until="until"
    /></span>
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
  transition: transform var(--quick) linear;
}

.left {
  min-width: 64px;
  text-align: right;
}
</style>
