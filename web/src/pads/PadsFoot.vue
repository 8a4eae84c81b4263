<script setup lang="ts">
import { ref, watch } from 'vue'
import type { Schemas } from '@/api/client'
import type { PadsWish } from './link'

const props = defineProps<{ house: Schemas['PadsNow']; disabled: boolean }>()
const emit = defineEmits<{ ask: [wish: PadsWish] }>()

/** How often a fader's position is sent. */
const FADER_MS = 120
const volume = ref(props.house.volume)
const moving = ref(false)
let toldAt = 0

watch(
  () => props.house.volume,
  (now) => {
    if (!moving.value) volume.value = now
  },
)

function onMove(): void {
  moving.value = true
  if (performance.now() - toldAt < FADER_MS) return
  toldAt = performance.now()
  emit('ask', { do: 'volume', value: Number(volume.value) })
}

function onStay(): void {
  moving.value = false
  emit('ask', { do: 'volume', value: Number(volume.value) })
}
</script>

<template>
  <footer class="foot">
    <label class="volume">
      <span class="soft small">Volume</span>
      <input
        v-model="volume"
        type="range"
        min="0"
        max="100"
        :disabled="disabled"
        aria-label="Master volume"
        @input="onMove"
        @change="onStay"
      />
      <span class="number">{{ Math.round(Number(volume)) }}</span>
    </label>
    <button
      class="btn"
      role="switch"
      :aria-checked="house.open"
      :disabled="disabled"
      @click="emit('ask', { do: 'house', open: !house.open })"
    >
      <i class="dot" :class="{ open: house.open }"></i>{{ house.open ? 'House open' : 'House closed' }}
    </button>
    <button class="btn main rest" :disabled="disabled" @click="emit('ask', { do: 'rest' })">
      All to rest
    </button>
  </footer>
</template>

<style scoped>
.foot {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
  padding: 10px 12px;
  background: var(--surface);
  border-top: 2px solid var(--line);
}

.volume {
  flex: 1 1 100%;
  display: flex;
  align-items: center;
  gap: 12px;
}

input {
  flex: 1;
  min-width: 0;
  height: 36px;
}

.number {
  width: 34px;
  font: 700 18px var(--display);
  text-align: right;
}

.btn {
  flex: 1;
  justify-content: center;
  min-height: 52px;
  font-weight: 700;
}

.dot {
  width: 14px;
  height: 14px;
  border: 2px solid var(--berry);
  border-radius: 50%;
}

.dot.open {
  border-color: var(--mint);
  background: var(--mint);
}

@media (min-width: 760px) {
  .volume {
    flex: 2 1 300px;
  }
}
</style>
