<script setup lang="ts">
/** Everybody who won something, those who wait for it first. */
import { ElCheckbox } from 'element-plus'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { useWinners } from '@/composables/useWinners'
import ViewerFace from '@/parts/viewers/ViewerFace.vue'
import ViewerName from '@/parts/viewers/ViewerName.vue'

const PAGE = 10
const book = useBook()
const { rows, waiting, total, more, give, remove } = useWinners(PAGE)
const cueOf = (id: string): string => book.book?.cues.find((cue) => cue.id === id)?.name ?? id
</script>

<template>
  <section v-if="total" id="winners" class="card" data-test="winners">
    <div class="card-title">
      <h2>Winners</h2>
      <span class="soft grow">{{ waiting ? `${waiting} of ${total} waiting` : `${total}, all given` }}</span>
      <a class="btn tiny" href="/api/winners.csv" download>CSV</a>
    </div>
    <ul>
      <li v-for="one in rows" :key="`${one.run}/${one.beat}`" :class="{ given: one.given }">
        <ElCheckbox
          :model-value="one.given !== null"
          :aria-label="`${one.name} has it`"
          @update:model-value="attempt(() => give(one, Boolean($event)))"
        />
        <ViewerFace :id="one.viewer" :size="26" />
        <strong class="name"><ViewerName :id="one.viewer" :name="one.name || 'forgotten'" /></strong>
        <span class="grow">{{ one.what }}</span>
        <span class="soft small">{{ cueOf(one.cue) }}, {{ new Date(one.at).toLocaleDateString() }}</span>
        <button class="btn bare tiny" aria-label="Remove" @click="attempt(() => remove(one))">✕</button>
      </li>
    </ul>
    <button v-if="rows.length < total" class="btn tiny" @click="attempt(more)">More</button>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 38px;
  border-top: 1px solid var(--line);
}

.name {
  width: 170px;
}

.given > :not(:first-child) {
  opacity: 0.65;
}
</style>
