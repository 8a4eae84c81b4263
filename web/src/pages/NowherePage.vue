<script setup lang="ts">
/** An address without a page. */
import { PAGES } from '@/labels'
</script>

<template>
  <div class="empty" data-test="nowhere">
    <h1>Page not found</h1>
    <p class="soft">Nothing is at this address. Try one of these:</p>
    <nav class="row" aria-label="Suggested pages">
      <RouterLink v-for="page in PAGES" :key="page.path" class="btn" :to="page.path">{{
        page.name
      }}</RouterLink>
    </nav>
  </div>
</template>

<style scoped>
.row {
  flex-wrap: wrap;
  justify-content: center;
}
</style>
