<script setup lang="ts">
/** The book as a file, out and in; and every book of before, to be looked at and taken back. */
import { ElSegmented } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { bringIn, useReview } from '@/composables/useReview'
import { attempt, say } from '@/composables/useSay'
import { dayOf, timeOf, WHENCE } from '@/logic/review'
import DropZone from '@/parts/DropZone.vue'
import ReviewRows from './ReviewRows.vue'

type Before = Schemas['BookBefore']
const book = useBook()
const router = useRouter()
const books = shallowRef<Before[]>([])
const copies = shallowRef<Schemas['CopyOut'][]>([])
const stays = shallowRef<string[]>([])
const chosen = ref<number | null>(null)
const busy = ref(false)
const { review, choices, takes, begin, tick } = useReview((body) =>
  got(api.POST('/api/books/{version}/review', { params: { path: { version: chosen.value ?? 0 } }, body })),
)
const days = computed(() => {
  const now = Date.now()
  const parted: { day: string; books: Before[] }[] = []
  for (const one of books.value) {
    const day = dayOf(one.at, now)
    if (parted.at(-1)?.day !== day) parted.push({ day, books: [] })
    parted.at(-1)?.books.push(one)
  }
  return parted
})
const picked = computed(() => books.value.find((one) => one.id === chosen.value))
const SIDES = [
  { value: 'now', label: 'against the book of now' },
  { value: 'before', label: 'against the one before it' },
]
/** Against what the chosen book is held: that of now, or the one that it was made of. */
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
  const keys = whole ? rows.value.map((row) => row.key) : choices.value.take
  const body = { ...choices.value, take: keys, version: review.value?.version ?? null }
  busy.value = true
  await attempt(async () => {
    const done = await book.edit(() =>
      got(api.POST('/api/books/{version}/take', { params: { path: { version } }, body })),
    )
    chosen.value = null
    say(`${done.what}. Ctrl+Z takes it back.`, 'fine')
  })
  busy.value = false
}

async function bring(files: File[]): Promise<void> {
  busy.value = true
  const file = files[0]
  if (file) await attempt(async () => router.push(await bringIn(file)))
  busy.value = false
}
</script>

<template>
  <div class="books">
    <h1>Books</h1>
    <div class="ways">
      <section class="card" aria-label="Carry it away">
        <div class="card-title"><h2>Carry it away</h2></div>
        <p class="soft small">
          The whole book with its files. Passwords, tokens and links stay here<template v-if="stays.length"
            >, and so do {{ stays.join(', ') }}</template
          >.
        </p>
        <a class="btn" href="/api/carry/book.zip" download data-test="carry">The book as one file</a>
      </section>
      <DropZone class="in" accept=".zip,.json" :busy="busy" @files="bring">
        <template #default>
          <h2>Bring in</h2>
          <p class="soft small">
            Drop a book, or cues that somebody handed on. You see what would come of it before anything does.
          </p>
          <label class="btn pick">
            {{ busy ? 'Reading…' : 'Choose a file' }}
            <input
              type="file"
              class="unseen"
              accept=".zip,.json"
              data-test="bring"
              @change="bring([...(($event.target as HTMLInputElement).files ?? [])])"
            />
          </label>
        </template>
      </DropZone>
      <section class="card" aria-label="Copies of the data">
        <div class="card-title"><h2>A copy a day</h2></div>
        <p class="soft small">
          Everything but the files, ledger too; fourteen are kept.
          <template v-if="copies[0]">The last is of {{ copies[0].day }}.</template>
          To go back to one, end Cue Jar and run
        </p>
        <code>cuejar restore{{ copies[0] ? ` ${copies[0].day}` : '' }}</code>
      </section>
    </div>
    <div class="both">
      <section aria-label="Books of before" class="list" tabindex="0">
        <h2>Books of before</h2>
        <template v-for="part in days" :key="part.day">
          <h3 class="soft">{{ part.day }}</h3>
          <button
            v-for="one in part.books"
            :key="one.id"
            class="before"
            :class="{ on: one.id === chosen, undone: one.undone }"
            :aria-pressed="one.id === chosen"
            :data-test="`book-${one.id}`"
            @click="choose(one.id)"
          >
            <span class="time">{{ timeOf(one.at) }}</span>
            <span class="what">{{ one.what }}</span>
            <span class="soft small">{{
              one.now
                ? 'the book of now'
                : one.undone
                  ? 'undone'
                  : one.whence === 'page'
                    ? ''
                    : WHENCE[one.whence]
            }}</span>
          </button>
        </template>
      </section>
      <section class="review" aria-label="What was otherwise">
        <template v-if="picked && review">
          <div class="row head">
            <div class="grow">
              <h2>{{ dayOf(picked.at, Date.now()) }}, {{ timeOf(picked.at) }}</h2>
              <ElSegmented v-model="against" size="small" :options="SIDES" aria-label="Against which book" />
            </div>
            <template v-if="rows.length && against === 'now'">
              <button
                class="btn"
                data-test="take-some"
                :disabled="busy || !takes || choices.take === null"
                @click="take(false)"
              >
                {{ choices.take === null ? 'Tick some to take them back' : `Take back ${takes}` }}
              </button>
              <button class="btn main" data-test="take-whole" :disabled="busy" @click="take(true)">
                Take it back whole
              </button>
            </template>
          </div>
          <p v-if="review.kept.length" class="soft">Stays, as it is used: {{ review.kept.join(', ') }}</p>
          <ReviewRows v-if="rows.length" :rows="rows" :plain="against !== 'now'" @tick="tick" />
          <p v-else class="empty">
            {{ against === 'now' ? 'The book of now is just like it.' : 'There is none before it.' }}
          </p>
        </template>
        <p v-else class="empty">
          Every change makes a book. Choose one to see what was otherwise, and take it back: whole, or a cue
          of it.
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

.ways {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 14px;
}

.ways p {
  margin: 0 0 10px;
}

.in {
  place-items: start;
  align-content: start;
  padding: 12px 16px;
}

.in h2 {
  margin-bottom: 8px;
}

code {
  padding: 4px 10px;
  border-radius: 6px;
  background: var(--ground);
  font-size: 14px;
  user-select: all;
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

h3 {
  margin: 8px 0 2px;
  font-size: 14px;
}

.before {
  display: grid;
  grid-template-columns: 56px minmax(0, 1fr) auto;
  gap: 8px;
  align-items: baseline;
  padding: 6px 10px;
  border: 1px solid transparent;
  border-radius: 8px;
  background: none;
  text-align: left;
  cursor: pointer;
}

.before:hover {
  background: var(--surface);
}

.before.on {
  border-color: var(--marmalade);
  background: var(--raised);
}

.time {
  font: 600 15px var(--display);
}

.what {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  line-clamp: 2;
  overflow: hidden;
  overflow-wrap: anywhere;
}

.undone .what {
  color: var(--soft);
  text-decoration: line-through;
}

.head {
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

  .ways,
  .both {
    grid-template-columns: minmax(0, 1fr);
  }

  .list {
    max-height: 50vh;
  }
}
</style>
