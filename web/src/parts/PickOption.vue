<script setup lang="ts">
/** One row of a `PickField`'s list. */
import { ElOption } from 'element-plus'
import type { Choice } from './choice'

defineProps<{ choice: Choice }>()
</script>

<template>
  <ElOption :value="choice.value" :label="choice.name" :disabled="choice.off">
    <span class="choice"
      ><img v-if="choice.picture" :src="choice.picture" alt="" loading="lazy" />{{ choice.name }}</span
    >
  </ElOption>
</template>

<style scoped>
.choice {
  display: flex;
  align-items: center;
  gap: 10px;
}

.choice img {
  width: 40px;
  height: 26px;
  object-fit: contain;
  background: var(--ground);
  border-radius: 4px;
}
</style>
