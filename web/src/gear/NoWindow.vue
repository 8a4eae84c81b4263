<script setup lang="ts">
/** An address at which there is no window: those that are there are offered. */
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
