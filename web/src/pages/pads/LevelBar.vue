<script setup lang="ts">
/** How loud the microphone is, from 0 to 1. */
defineProps<{ level: number }>()
</script>

<template>
  <span
    class="level"
    role="meter"
    aria-label="Level"
    aria-valuemin="0"
    aria-valuemax="1"
    :aria-valuenow="level"
    ><i :class="{ loud: level > 0.95 }" :style="{ width: `${level * 100}%` }"></i
  ></span>
</template>

<style scoped>
.level {
  display: block;
  height: 10px;
  overflow: hidden;
  border-radius: 5px;
  background: var(--raised);
}

i {
  display: block;
  height: 100%;
  background: var(--mint);
  transition: width 0.2s;
}

.loud {
  background: var(--berry);
}
</style>
