<script setup lang="ts">
/** Export and import of the book, and every version of it, to compare and restore. */
import { ElSegmented } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useReview } from '@/composables/useReview'
import { attempt, say } from '@/composables/useSay'
import { dayOf, timeOf } from '@/logic/review'
import BooksBefore from './BooksBefore.vue'
import BookWays from './BookWays.vue'
import ReviewRows from './ReviewRows.vue'

type Before = Schemas['BookBefore']
const book = useBook()
const books = shallowRef<Before[]>([])
const copies = shallowRef<Schemas['CopyOut'][]>([])
const stays = shallowRef<string[]>([])
const chosen = ref<number | null>(null)
const busy = ref(false)
const { review, choices, takes, begin, tick } = useReview((body) =>
  got(api.POST('/api/books/{version}/review', { params: { path: { version: chosen.value ?? 0 } }, body })),
)
const picked = computed(() => books.value.find((one) => one.id === chosen.value))
const SIDES = [
  { value: 'now', label: 'Current book' },
  { value: 'before', label: 'Version before' },
]
/** What the chosen book is compared with: the current one, or its predecessor. */
const against = ref('now')
const step = shallowRef<Schemas['EntryRow'][]>([])
const rows = computed(() => (against.value === 'now' ? (review.value?.rows ?? []) : step.value))
watch([chosen, against], async () => {
  const at = books.value.findIndex((one) => one.id === chosen.value)
  const since = books.value[at + 1]?.id
  step.value = []
  if (against.value === 'now' || at < 0 || since === undefined) return
  const params = { path: { version: books.value[at]?.id ?? 0 }, query: { since } }
  await attempt(async () => (step.value = await got(api.GET('/api/books/{version}/changes', { params }))))
})

watch(
  () => book.version,
  () =>
    void attempt(async () => {
      const [some, kept, left] = await Promise.all([
        got(api.GET('/api/books')),
        got(api.GET('/api/books/copies')),
        got(api.GET('/api/carry/stays')),
      ])
      books.value = some
      copies.value = kept
      stays.value = left.left_out
      if (chosen.value !== null) begin()
    }),
  { immediate: true },
)

function choose(id: number): void {
  chosen.value = chosen.value === id ? null : id
  if (chosen.value !== null) begin()
}

async function take(whole: boolean): Promise<void> {
  const version = chosen.value ?? 0
  const some = rows.value.filter((row) => row.takes)
  const keys = (whole ? rows.value : some).map((row) => row.key)
  const body = { ...choices.value, take: keys, version: review.value?.version ?? null }
  busy.value = true
  await attempt(async () => {
    const done = await book.edit(() =>
      got(api.POST('/api/books/{version}/take', { params: { path: { version } }, body })),
    )
    chosen.value = null
    say(`${done.what}. Ctrl+Z undoes it.`, 'fine')
  })
  busy.value = false
}
</script>

<template>
  <div class="books">
    <h1>History</h1>
    <BookWays :copies="copies" :stays="stays" />
    <div class="both">
      <BooksBefore class="list" :books="books" :chosen="chosen" @choose="choose" />
      <section class="review" aria-label="Changes">
        <template v-if="picked && review">
          <div class="row head">
            <div class="grow">
              <h2>{{ dayOf(picked.at, Date.now()) }}, {{ timeOf(picked.at) }}</h2>
              <ElSegmented v-model="against" size="small" :options="SIDES" aria-label="Compare with" />
            </div>
            <template v-if="rows.length && against === 'now'">
              <button class="btn" data-test="take-some" :disabled="busy || !takes" @click="take(false)">
                {{ takes ? `Restore ${takes} selected` : 'Nothing selected' }}
              </button>
              <button class="btn main" data-test="take-whole" :disabled="busy" @click="take(true)">
                Restore this version
              </button>
            </template>
          </div>
          <p v-if="review.kept.length" class="soft">
            Stays, because it is in use: {{ review.kept.join(', ') }}
          </p>
          <ReviewRows v-if="rows.length" :rows="rows" :plain="against !== 'now'" @tick="tick" />
          <p v-else class="empty">
            {{ against === 'now' ? 'The two are identical.' : 'This is the first version.' }}
          </p>
        </template>
        <p v-else class="empty">
          Every change is kept. Choose a version to see what differs, then restore all of it or single
          entries.
        </p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.books {
  display: grid;
  grid-template: auto auto minmax(0, 1fr) / minmax(0, 1fr);
  gap: 12px;
  height: 100%;
  max-width: 1240px;
  margin: 0 auto;
}

.both {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 7fr);
  gap: 18px;
  min-height: 0;
}

.list,
.review {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  align-content: start;
  gap: 4px;
  min-height: 0;
  overflow: auto;
}

.review {
  gap: 12px;
}

.head .grow {
  min-width: max-content;
}

.head {
  flex-wrap: wrap;
  position: sticky;
  top: 0;
  z-index: 2;
  padding-bottom: 6px;
  background: var(--ground);
}

@media (max-width: 900px) {
  .books {
    height: auto;
  }

  .both {
    grid-template-columns: minmax(0, 1fr);
  }

  .list {
    max-height: 50vh;
  }
}
</style>
