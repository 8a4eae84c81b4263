<script setup lang="ts">
import { ElOption } from 'element-plus'
import { useEventListener } from '@vueuse/core'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, got, upload, type LedgerLine } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { useReasons } from '@/composables/useReasons'
import { attempt, say } from '@/composables/useSay'
import { cueChoices } from '@/logic/choices'
import PickField from '@/parts/PickField.vue'
import LedgerTable from './LedgerTable.vue'

const book = useBook()
const live = useLive()
const reasons = useReasons()
const route = useRoute()
const router = useRouter()
const NAMES = ['words', 'viewer', 'cue', 'verdict', 'reason', 'outcome', 'call'] as const
type Filters = Record<(typeof NAMES)[number], string>
const asked = (): Filters =>
  Object.fromEntries(NAMES.map((name) => [name, String(route.query[name] ?? '')])) as Filters
/** The search is in the address, so that it can be saved and shared. */
const filters = reactive(asked())
const before = ref<number | null>(null)
const many = ref(false)
const lines = ref<LedgerLine[]>([])
const total = ref(0)
const loaded = ref(false)
const loading = ref(false)
const PAGE = 100

const cues = computed(() => [
  { value: '', name: 'every cue' },
  ...cueChoices(book.book?.cues ?? [], book.mediaById, book.book?.jars ?? []),
])
const query = computed(() => new URLSearchParams(Object.entries(filters).filter(([, v]) => v)).toString())

async function load(more = false): Promise<void> {
  const mine = more ? before.value : null
  const page = { limit: PAGE, ...(mine === null ? {} : { before: mine }) }
  const answer = await got(api.GET('/api/ledger', { params: { query: { ...filters, ...page } } }))
  lines.value = more ? [...lines.value, ...answer.lines] : answer.lines
  total.value = answer.total
  many.value = answer.more
  before.value = answer.before
  loaded.value = true
}

async function loadMore(): Promise<void> {
  if (loading.value || before.value === null) return
  loading.value = true
  await attempt(() => load(true))
  loading.value = false
}
watch(
  filters,
  () => {
    void router.replace({ query: Object.fromEntries(Object.entries(filters).filter(([, value]) => value)) })
    void attempt(() => load())
  },
  { immediate: true },
)
watch(
  () => route.query,
  () => Object.assign(filters, asked()),
)
function clear(): void {
  for (const name of NAMES) filters[name] = ''
}
/** Escape clears every filter; in the search field too. */
useEventListener('keydown', (event) => {
  if (event.key === 'Escape' && query.value && !event.defaultPrevented) clear()
})
watch(
  () => live.lines,
  () => lines.value.length <= PAGE && void attempt(() => load()),
)

const input = ref<HTMLInputElement>()
/** Past calls from elsewhere: they are only remembered. */
async function takeIn(file: File | undefined): Promise<void> {
  if (!file) return
  await attempt(async () => {
    const done = await got(api.POST('/api/ledger/in', upload(file)))
    say(`${done.taken} calls were taken in; ${done.known} were here already.`, 'fine')
    if (done.refused.length) say(`Not imported: ${done.refused.slice(0, 3).join('; ')}`, 'wrong')
    await load()
  })
}
</script>

<template>
  <div class="ledger">
    <div class="row wrap">
      <h1>Ledger</h1>
      <span class="soft"
        >{{ many ? 'more than ' : '' }}{{ total.toLocaleString() }} {{ total === 1 ? 'call' : 'calls' }}</span
      >
      <span class="grow"></span>
      <a class="btn tiny" :href="`/api/ledger.csv?${query}`" download>CSV</a>
      <a class="btn tiny" :href="`/api/ledger.jsonl?${query}`" download>JSON lines</a>
      <button
        class="btn tiny"
        title="Imports past calls from JSON lines; nothing fires"
        @click="input?.click()"
      >
        Import
      </button>
      <input
        ref="input"
        type="file"
        hidden
        accept=".jsonl,.ndjson"
        data-test="ledger-in"
        @change="(takeIn(input?.files?.[0]), input && (input.value = ''))"
      />
    </div>
    <div class="row wrap">
      <input
        v-model.lazy="filters.words"
        class="well pick"
        type="search"
        placeholder="Contains text"
        aria-label="Contains text"
        data-test="words"
      />
      <input v-model.lazy="filters.viewer" class="well pick" placeholder="Viewer" aria-label="Viewer" />
      <PickField v-model="filters.cue" class="pick" aria-label="Cue" data-test="filter-cue" :choices="cues" />
      <PickField v-model="filters.verdict" class="pick" aria-label="Verdict">
        <ElOption value="" label="every verdict" />
        <ElOption value="let_in" label="let in" />
        <ElOption value="extended" label="extended" />
        <ElOption value="turned_away" label="refused" />
        <ElOption value="ignored" label="ignored" />
      </PickField>
      <PickField v-model="filters.reason" class="pick" aria-label="Reason">
        <ElOption value="" label="every reason" />
        <ElOption v-for="(words, id) in reasons" :key="id" :value="id" :label="words" />
      </PickField>
      <button v-if="query" class="btn tiny" title="Escape" data-test="clear" @click="clear">Clear</button>
    </div>
    <LedgerTable v-if="lines.length" :lines="lines" />
    <button v-if="before !== null" class="btn" data-test="more" :disabled="loading" @click="loadMore">
      Show more
    </button>
    <div v-if="loaded && !lines.length" class="empty">
      <p v-if="query">No matching calls.</p>
      <p v-else>Every call is kept here: who made it, the result and the reason.</p>
    </div>
  </div>
</template>

<style scoped>
.ledger {
  display: grid;
  grid-template: auto auto 1fr auto / minmax(0, 1fr);
  gap: 12px;
  height: 100%;
}

.wrap {
  flex-wrap: wrap;
}

.pick {
  width: 170px;
}
</style>
