<script setup lang="ts">
/** An address at which there is nothing. */
import { PAGES } from '@/labels'
</script>

<template>
  <div class="empty" data-test="nowhere">
    <h1>There is nothing here</h1>
    <p class="soft">No page lies at this address. These do:</p>
    <nav class="row" aria-label="Ways back">
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
