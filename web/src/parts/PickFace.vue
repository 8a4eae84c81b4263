<script setup lang="ts">
/** What a row of a list shows of what it stands for: its picture or wave, its name, and what is beside that. */
import type { Choice } from './choice'
import WaveForm from './WaveForm.vue'

defineProps<{ choice: Choice }>()
</script>

<template>
  <span class="choice"
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
