<script setup lang="ts">
/** What comes with the book: calls, nights, viewers, points and counts of the other computer. */
import { ElCheckbox } from 'element-plus'
import type { Review } from '@/composables/useReview'

defineProps<{ data: Review['data'] }>()
const emit = defineEmits<{ take: [part: string, on: boolean] }>()
</script>

<template>
  <section class="card" aria-label="Data" data-test="review-data">
    <div class="card-title"><h2>Data</h2></div>
    <ul>
      <li v-for="row in data" :key="row.part">
        <ElCheckbox
          :model-value="row.takes"
          :disabled="!row.fresh"
          :data-test="`data-${row.part}`"
          @update:model-value="emit('take', row.part, Boolean($event))"
          >{{ row.said }}</ElCheckbox
        >
        <span v-if="row.note" class="small soft">{{ row.note }}</span>
      </li>
    </ul>
    <p class="small soft">
      What you have stays: a viewer’s points are imported only if they have none here. Undo reverts the book,
      not these.
    </p>
  </section>
</template>

<style scoped>
ul {
  display: grid;
  margin: 0 0 8px;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  justify-content: space-between;
  gap: 0 10px;
}

p {
  margin: 0;
}
</style>
