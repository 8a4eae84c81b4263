<script setup lang="ts">
/** A row of a list: its picture or wave, its name, and further details. */
import { useBook } from '@/composables/useBook'
import { usePreview } from '@/composables/usePreview'
import type { Choice } from './choice'
import WaveForm from './WaveForm.vue'

const props = defineProps<{ choice: Choice }>()
const { point, stop } = usePreview()
const FILE = 'file:'

/** A sound plays when the pointer rests on it. */
function onEnter(): void {
  const value = String(props.choice.value)
  const entry = value.startsWith(FILE) ? useBook().mediaById.get(value.slice(FILE.length)) : undefined
  if (entry) point(entry)
}
</script>

<template>
  <span class="choice" @mouseenter="onEnter" @mouseleave="stop"
    ><img v-if="choice.picture" :src="choice.picture" alt="" loading="lazy" /><span
      v-else-if="choice.wave?.length"
      class="wave"
      ><WaveForm :wave="choice.wave" /></span
    ><span class="name">{{ choice.name }}</span
    ><span v-if="choice.detail" class="detail">{{ choice.detail }}</span></span
  >
</template>

<style scoped>
.choice {
  display: flex;
  align-items: center;
  gap: 10px;
}

img,
.wave {
  flex: none;
  width: 40px;
  height: 26px;
  object-fit: contain;
  background: var(--ground);
  border-radius: 4px;
}

.name {
  overflow: hidden;
  text-overflow: ellipsis;
}

.detail {
  margin-left: auto;
  padding-left: 12px;
  color: var(--soft);
  font-weight: 400;
  white-space: nowrap;
}
</style>
