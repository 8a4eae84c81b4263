<script setup lang="ts">
/** Who reads viewers' texts, how, and what is never read. */
import { onMounted, ref, shallowRef } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { freeId } from '@/logic/ids'
import CastBench from './CastBench.vue'
import PartCard from './PartCard.vue'
import ReadingCard from './ReadingCard.vue'
import WordLists from './WordLists.vue'

const book = useBook()
const voices = shallowRef<Schemas['Voices'] | null>(null)
const open = ref('')
onMounted(async () => (voices.value = (await attempt(() => got(api.GET('/api/voices')))) ?? null))

async function add(): Promise<void> {
  const id = freeId('part', new Set(book.book?.cast.map((part) => part.id)))
  const name = `Part ${(book.book?.cast.length ?? 0) + 1}`
  await attempt(() => book.put('cast', { id, name, base: 'en-gb' }))
  open.value = id
}
</script>

<template>
  <div class="cast">
    <div class="row">
      <h1>Cast</h1>
      <span class="soft grow">The voices that read viewers’ messages aloud.</span>
      <button class="btn main" data-test="new-part" @click="add">New part</button>
    </div>
    <div class="columns">
      <section class="parts">
        <PartCard
          v-for="part in book.book?.cast ?? []"
          :key="part.id"
          :part="part"
          :voices="voices"
          :open="open === part.id"
          @toggle="open = open === part.id ? '' : part.id"
        />
        <p v-if="!book.book?.cast.length" class="soft">
          No parts yet, so one plain voice reads everything. A part has a voice, pace, pitch and mouth.
        </p>
        <ReadingCard />
      </section>
      <section class="bench">
        <CastBench />
        <WordLists />
      </section>
    </div>
  </div>
</template>

<style scoped>
.cast {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  max-width: 1240px;
  margin: 0 auto;
}

.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.15fr);
  gap: 14px;
  align-items: start;
}

.parts,
.bench {
  display: grid;
  gap: 10px;
}

.parts,
.bench {
  grid-template-columns: minmax(0, 1fr);
}

@media (max-width: 900px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
