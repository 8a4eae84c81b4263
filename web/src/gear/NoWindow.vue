<script setup lang="ts">
/** An address without a window: lists those that exist. */
defineProps<{ asked: string; there: string[] }>()
</script>

<template>
  <div class="empty">
    <h1>There is no window “{{ asked }}”.</h1>
    <p class="row">
      <a v-for="name in there" :key="name" class="btn" :href="`/window/${name}`">{{ name }}</a>
    </p>
    <a href="/">Audience page</a>
  </div>
</template>
