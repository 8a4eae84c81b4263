<script setup lang="ts">
/** What comes with the book: calls, nights, viewers, points and counts of the other computer. */
import { ElCheckbox } from 'element-plus'
import type { Review } from '@/composables/useReview'

defineProps<{ data: Review['data'] }>()
const emit = defineEmits<{ take: [part: string, on: boolean] }>()
type Row = NonNullable<Review['data']>[number]
const NAMES: Record<Row['part'], [string, string]> = {
  calls: ['call in the ledger', 'calls in the ledger'],
  nights: ['night', 'nights'],
  viewers: ['viewer', 'viewers'],
  points: ['viewer’s points', 'viewers’ points'],
  counts: ['count', 'counts'],
}

function note(row: Row): string {
  const here = row.part === 'counts' ? 'already running here' : 'already here'
  const told = row.fresh < row.all ? [`${(row.all - row.fresh).toLocaleString('en')} ${here}`] : []
  if (row.odd) told.push(`${row.odd} ${row.odd === 1 ? 'line' : 'lines'} can’t be read`)
  return told.join(', ')
}
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
          ><strong>{{ row.fresh.toLocaleString('en') }}</strong>
          {{ NAMES[row.part][row.fresh === 1 ? 0 : 1] }}</ElCheckbox
        >
        <span v-if="note(row)" class="small soft">{{ note(row) }}</span>
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
