<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { api, got, type LedgerLine } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { useReasons } from '@/composables/useReasons'
import { attempt } from '@/composables/useSay'
import { sayVerdict } from '@/logic/words'
import TraceList from '@/parts/TraceList.vue'

const book = useBook()
const live = useLive()
const reasons = useReasons()
const filters = reactive({ viewer: '', cue: '', verdict: '', reason: '' })
const lines = ref<LedgerLine[]>([])
const total = ref(0)
const open = ref<number | null>(null)
const loaded = ref(false)
const PAGE = 100

const names = computed(() => new Map((book.book?.cues ?? []).map((cue) => [cue.id, cue.name])))
const query = computed(() => new URLSearchParams(Object.entries(filters).filter(([, v]) => v)).toString())

async function load(more = false): Promise<void> {
  const skip = more ? lines.value.length : 0
  const answer = await got(api.GET('/api/ledger', { params: { query: { ...filters, limit: PAGE, skip } } }))
  lines.value = more ? [...lines.value, ...answer.lines] : answer.lines
  total.value = answer.total
  loaded.value = true
}
watch(filters, () => void attempt(() => load()), { immediate: true })
watch(
  () => live.lines,
  () => lines.value.length <= PAGE && void attempt(() => load()),
)

function when(ms: number): string {
  return new Date(ms).toLocaleString([], {
    month: 'short',
    day: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
  })
}

function tone(line: LedgerLine): string {
  if (line.outcome === 'refunded' || line.verdict === 'turned_away') return 'no'
  return line.verdict === 'ignored' ? 'plain' : 'yes'
}
</script>

<template>
  <div class="ledger">
    <div class="row wrap">
      <h1>Ledger</h1>
      <span class="soft">{{ total }} {{ total === 1 ? 'call' : 'calls' }}</span>
      <input v-model.lazy="filters.viewer" class="well pick" placeholder="Viewer" aria-label="Viewer" />
      <select v-model="filters.cue" class="well pick" aria-label="Cue">
        <option value="">every cue</option>
        <option v-for="cue in book.book?.cues ?? []" :key="cue.id" :value="cue.id">{{ cue.name }}</option>
      </select>
      <select v-model="filters.verdict" class="well pick" aria-label="Verdict">
        <option value="">every verdict</option>
        <option value="let_in">let in</option>
        <option value="extended">made longer</option>
        <option value="turned_away">turned away</option>
        <option value="ignored">left alone</option>
      </select>
      <select v-model="filters.reason" class="well pick" aria-label="Reason">
        <option value="">every reason</option>
        <option v-for="(words, id) in reasons" :key="id" :value="id">{{ words }}</option>
      </select>
      <span class="grow"></span>
      <a class="btn tiny" :href="`/api/ledger.csv?${query}`" download>CSV</a>
      <a class="btn tiny" :href="`/api/ledger.jsonl?${query}`" download>JSON lines</a>
    </div>
    <table v-if="lines.length" class="card table">
      <thead>
        <tr>
          <th>When</th>
          <th>Who</th>
          <th>Called</th>
          <th>Text</th>
          <th>What became of it</th>
          <th class="right">Points</th>
        </tr>
      </thead>
      <tbody v-for="line in lines" :key="line.id" :class="tone(line)">
        <tr
          tabindex="0"
          @click="open = open === line.id ? null : line.id"
          @keydown.enter="open = open === line.id ? null : line.id"
        >
          <td class="soft nowrap">{{ when(line.at) }}</td>
          <td>
            <strong>{{ line.viewer_name || line.kind }}</strong>
          </td>
          <td>{{ names.get(line.cue) ?? (line.cue || line.reward || '–') }}</td>
          <td class="text">{{ line.text }}</td>
          <td class="verdict">{{ sayVerdict(line, reasons) }}</td>
          <td class="right nowrap">{{ line.cost || '' }}</td>
        </tr>
        <tr v-if="open === line.id">
          <td colspan="6"><TraceList :line="line" /></td>
        </tr>
      </tbody>
    </table>
    <button v-if="lines.length < total" class="btn" @click="attempt(() => load(true))">Show more</button>
    <div v-if="loaded && !lines.length" class="empty">
      <p>Every call, who made it, what became of it and why, is kept here for good.</p>
    </div>
  </div>
</template>

<style scoped>
.ledger {
  display: grid;
  gap: 12px;
  justify-items: start;
}

.wrap {
  flex-wrap: wrap;
  width: 100%;
}

.pick {
  width: 170px;
}

.table {
  width: 100%;
  border-collapse: collapse;
  padding: 0;
}

th {
  text-align: left;
  color: var(--soft);
  font-weight: 400;
  font-size: 13px;
}

th,
td {
  padding: 7px 12px;
  border-bottom: 1px solid var(--line);
  vertical-align: top;
}

tbody tr:first-child {
  cursor: pointer;
}

tbody tr:first-child:hover {
  background: var(--raised);
}

.nowrap {
  white-space: nowrap;
}

.right {
  text-align: right;
}

.text {
  max-width: 260px;
  overflow-wrap: anywhere;
}

.yes .verdict {
  color: var(--mint);
}

.no .verdict {
  color: var(--berry);
}

.plain .verdict {
  color: var(--soft);
}
</style>
