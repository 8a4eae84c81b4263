<script setup lang="ts">
/** A viewer's picture, or their letters. */
defineProps<{ id: string; size: number }>()
</script>

<template>
  <img
    class="face"
    :src="`/faces/${encodeURIComponent(id)}`"
    :width="size"
    :height="size"
    alt=""
    loading="lazy"
  />
</template>

<style scoped>
.face {
  flex: none;
  border-radius: 50%;
  background: var(--raised);
  object-fit: cover;
}
</style>
