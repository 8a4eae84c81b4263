<script setup lang="ts">
/** Viewers: everybody who called, wrote or was reported as watching. A sub-page of the ledger. */
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { attempt } from '@/composables/useSay'
import { useViewerCard } from '@/composables/useViewerCard'
import PickField from '@/parts/PickField.vue'
import ViewerFace from '@/parts/viewers/ViewerFace.vue'
import PointsCard from './PointsCard.vue'
import WinnersCard from './WinnersCard.vue'

type Sort = 'last' | 'name' | 'held'
const book = useBook()
const live = useLive()
const card = useViewerCard()
const wanted = ref('')
const sort = ref<Sort>('last')
const rows = ref<Schemas['ViewerOut'][]>([])
const total = ref(0)
const loaded = ref(false)
const PAGE = 100
const ours = computed(() => book.book?.points.on ?? false)
const sorts = computed(() => [
  { value: 'last', name: 'last seen' },
  { value: 'name', name: 'by name' },
  ...(ours.value ? [{ value: 'held', name: `most ${book.book?.points.name}` }] : []),
])

async function load(more = false): Promise<void> {
  const skip = more ? rows.value.length : 0
  const limit = more ? PAGE : Math.max(PAGE, Math.min(rows.value.length, 500))
  const query = { text: wanted.value, sort: sort.value, limit, skip }
  const answer = await got(api.GET('/api/viewers', { params: { query } }))
  rows.value = more ? [...rows.value, ...answer.viewers] : answer.viewers
  total.value = answer.total
  loaded.value = true
}
const soon = useDebounceFn(() => void attempt(() => load()), 300)
watch([wanted, sort], () => void soon(), { immediate: true })
watch([() => live.lines, () => card.changes, () => book.version], () => void soon())

function ago(ms: number): string {
  const minutes = Math.floor((live.now - ms) / 60_000)
  if (minutes < 2) return 'just now'
  if (minutes < 90) return `${minutes} min ago`
  const hours = Math.round(minutes / 60)
  return hours < 36 ? `${hours} h ago` : new Date(ms).toLocaleDateString()
}
</script>

<template>
  <div class="viewers">
    <div class="row head">
      <h1>Viewers</h1>
      <span class="soft">{{ total.toLocaleString() }} {{ total === 1 ? 'viewer' : 'viewers' }}</span>
      <input v-model="wanted" class="well search" placeholder="Find a viewer" aria-label="Find a viewer" />
      <PickField
        class="sort"
        :model-value="sort"
        :choices="sorts"
        aria-label="Sort by"
        @update:model-value="sort = $event as Sort"
      />
      <span class="grow"></span>
    </div>
    <PointsCard @changed="attempt(() => load())" />
    <WinnersCard />
    <div v-if="rows.length" class="card table">
      <table>
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">Roles</th>
            <th scope="col">Last seen</th>
            <th scope="col" class="number">Redeemed</th>
            <th scope="col" class="number">Refunded</th>
            <th scope="col" class="number">Spent</th>
            <th v-if="ours" scope="col" class="number">{{ book.book?.points.name }}</th>
            <th scope="col"><span class="unseen">Status</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.id" :data-viewer="row.id" @click="card.open(row.id)">
            <td>
              <span class="row who">
                <ViewerFace :id="row.id" :size="26" />
                <button class="name" @click.stop="card.open(row.id)">
                  {{ row.name || 'a forgotten viewer' }}
                </button>
              </span>
            </td>
            <td class="soft">{{ row.roles.join(', ') }}</td>
            <td class="soft">{{ ago(row.last) }}</td>
            <td class="number">{{ row.redemptions || '' }}</td>
            <td class="number">{{ row.refunds || '' }}</td>
            <td class="number">{{ row.spent ? row.spent.toLocaleString() : '' }}</td>
            <td v-if="ours" class="number">
              <strong>{{ (row.held ?? 0).toLocaleString() }}</strong>
            </td>
            <td class="small">
              <span v-if="row.shut_out" class="out">blocked</span>
              <span v-else-if="row.spared" class="exempt">exempt</span>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <button v-if="rows.length < total" class="btn more" data-test="more" @click="attempt(() => load(true))">
      Show more
    </button>
    <div v-if="loaded && !rows.length" class="empty">
      <p v-if="wanted">No matching viewers.</p>
      <p v-else>Everyone who calls, chats or watches appears here.</p>
    </div>
  </div>
</template>

<style scoped>
.viewers {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  max-width: 1180px;
  margin: 0 auto;
}

.head {
  flex-wrap: wrap;
}

.search,
.sort {
  width: 180px;
}

.table {
  position: relative;
  padding: 0;
  overflow-x: auto;
}

table {
  width: 100%;
  border-collapse: collapse;
}

th {
  padding: 8px 14px;
  color: var(--soft);
  font-weight: 400;
  font-size: 13px;
  text-align: left;
}

td {
  padding: 6px 14px;
  border-top: 1px solid var(--line);
}

th.number,
td.number {
  text-align: right;
}

tbody tr {
  cursor: pointer;
}

tbody tr:hover {
  background: var(--raised);
}

.who {
  flex-wrap: nowrap;
}

.name {
  padding: 0;
  border: 0;
  background: none;
  font-weight: 700;
  text-align: left;
  cursor: pointer;
}

.out {
  color: var(--berry);
}

.exempt {
  color: var(--mint);
}

.more {
  justify-self: start;
}
</style>
