<script setup lang="ts">
/** All rewards, with one consistent state of each: here, tonight, and at the channel. */
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { ElSegmented } from 'element-plus'
import { computed, ref } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useGrowing } from '@/composables/useGrowing'
import { useLive } from '@/composables/useLive'
import { attempt, say } from '@/composables/useSay'
import { useTickets } from '@/composables/useTickets'
import { found, sorted, SORTS, type Sort } from '@/logic/tickets'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'
import NewReward from './NewReward.vue'
import OthersCard from './OthersCard.vue'
import PlaybillDialog from './PlaybillDialog.vue'
import RewardBar from './RewardBar.vue'
import RewardDrawer from './RewardDrawer.vue'
import RewardTicket from './RewardTicket.vue'
import SetStrip from './SetStrip.vue'
import TableDialog from './TableDialog.vue'

const book = useBook()
const live = useLive()
const { told, rows, load, change, order, remove } = useTickets()
const dense = useLocalStorage('cue-jar-rewards-dense', false)
const sort = ref<Sort>('order')
const wanted = ref('')
const tag = ref('')
const set = ref('')
const picked = ref<string[]>([])
const opened = ref<string | null>(null)
const making = ref(false)
const table = ref(false)
const playbill = ref(false)
const dragged = ref<string | null>(null)

const sorts = Object.entries(SORTS).map(([value, name]) => ({ value, name }))
const tags = computed(() => [...new Set(rows.value.flatMap((row) => row.reward.tags))].sort())
const setNames = computed(() => new Map((book.book?.sets ?? []).map((one) => [one.id, one.name])))
const shown = computed(() => sorted(found(rows.value, wanted.value, tag.value, set.value), sort.value))
const hasChannel = computed(() => live.state?.gear.some((gear) => gear.kind === 'channel') ?? true)
const drawn = useGrowing(shown)
const there = computed(() => picked.value.filter((id) => rows.value.some((row) => row.ticket.id === id)))
const openRow = computed(() => rows.value.find((row) => row.ticket.id === opened.value) ?? null)
const movable = computed(() => sort.value === 'order' && shown.value.length === rows.value.length)

function pick(id: string, on: boolean): void {
  picked.value = on ? [...picked.value, id] : picked.value.filter((one) => one !== id)
}

async function moveBefore(id: string, before: string | undefined): Promise<void> {
  if (!movable.value || id === before) return
  const ids = rows.value.map((row) => row.ticket.id).filter((one) => one !== id)
  ids.splice(before ? ids.indexOf(before) : ids.length, 0, id)
  await order(ids)
}

/** Moves one place by the keyboard. */
function nudge(id: string, by: number): void {
  const ids = rows.value.map((row) => row.ticket.id)
  const at = ids.indexOf(id)
  if (at + by < 0 || at + by >= ids.length) return
  void attempt(() => moveBefore(id, by < 0 ? ids[at - 1] : ids[at + 2]))
}

async function again(id: string): Promise<void> {
  await got(api.POST('/api/rewards/{reward_id}/again', { params: { path: { reward_id: id } } }))
  say('Made again at the channel.', 'fine')
  await load()
}

async function takeOut(ids: string[]): Promise<void> {
  await remove(ids)
  opened.value = null
  say('Removed. Ctrl+Z brings it back.', 'fine')
}

useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  const target = event.target as HTMLElement
  const typing =
    ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName) || target.closest('.el-overlay') !== null
  if (typing || making.value || table.value || playbill.value || event.ctrlKey || event.metaKey) return
  const ticket = target.closest<HTMLElement>('[data-reward]')?.dataset.reward
  if (event.altKey && ticket && ['ArrowUp', 'ArrowDown'].includes(event.key) && movable.value) {
    event.preventDefault()
    nudge(ticket, event.key === 'ArrowUp' ? -1 : 1)
  } else if (event.altKey) return
  else if (event.key === 'n') {
    event.preventDefault()
    making.value = true
  } else if (event.key === 'd') dense.value = !dense.value
})
</script>

<template>
  <div class="rewards">
    <div class="head row">
      <h1>Rewards</h1>
      <input v-model="wanted" class="well search" placeholder="Find a reward" aria-label="Find a reward" />
      <PickField
        class="sort"
        :model-value="sort"
        :choices="sorts"
        aria-label="Sort by"
        @update:model-value="sort = $event as Sort"
      />
      <ElSegmented
        :model-value="dense ? 'List' : 'Tickets'"
        :options="['Tickets', 'List']"
        aria-label="Tickets or a list (D)"
        @update:model-value="dense = $event === 'List'"
      />
      <span class="grow"></span>
      <button class="btn" data-test="playbill" @click="playbill = true">Playbill…</button>
      <a class="btn" href="/api/rewards/table.csv" download title="All rewards as CSV">Export table</a>
      <button class="btn" data-test="from-table" @click="table = true">Import table…</button>
      <button class="btn main" data-test="new-reward" title="N" @click="making = true">New reward</button>
    </div>
    <div class="row second">
      <SetStrip v-model="set" :picked="there" />
      <button
        v-for="name in tags"
        :key="name"
        class="btn tiny"
        :class="{ main: tag === name }"
        @click="tag = tag === name ? '' : name"
      >
        {{ name }}
      </button>
      <span class="grow"></span>
      <label class="row earn small"
        >A viewer earns
        <NumberField
          class="per-min"
          :model-value="book.book?.house.points_per_min"
          :least="0.01"
          :most="100_000"
          narrow
          aria-label="Points a minute"
          @update:model-value="(points_per_min) => attempt(() => book.putHouse({ points_per_min }))"
        />
        points a minute</label
      >
    </div>
    <RewardBar
      v-if="there.length"
      :model-value="there"
      :all="shown.map((row) => row.ticket.id)"
      @update:model-value="picked = $event"
      @change="(to) => attempt(() => change(there, to))"
      @remove="attempt(() => takeOut(there))"
    />
    <ul v-if="shown.length" class="list" :class="{ dense }" @dragover.prevent>
      <RewardTicket
        v-for="row in drawn"
        :key="row.ticket.id"
        :row="row"
        :dense="dense"
        :sets="row.ticket.sets.map((id) => setNames.get(id) ?? id)"
        :model-value="picked.includes(row.ticket.id)"
        :draggable="movable"
        @update:model-value="pick(row.ticket.id, $event)"
        @open="opened = row.ticket.id"
        @on="(on) => attempt(() => change([row.ticket.id], { on }))"
        @again="attempt(() => again(row.ticket.id))"
        @remove="attempt(() => takeOut([row.ticket.id]))"
        @dragstart="dragged = row.ticket.id"
        @dragend="dragged = null"
        @drop.prevent="dragged && attempt(() => moveBefore(dragged as string, row.ticket.id))"
      />
    </ul>
    <p v-else-if="rows.length" class="soft">No matching rewards.</p>
    <div v-else-if="told" class="empty">
      <p>
        Viewers spend their points on rewards. Create one here and it appears at the channel a second
        later.<br />
        Cue Jar never removes rewards that it didn’t create.
      </p>
      <p v-if="!hasChannel">
        No channel connected yet. <RouterLink to="/opening">Connect one on Opening night.</RouterLink>
      </p>
      <button class="btn main" @click="making = true">Make the first reward</button>
    </div>
    <OthersCard v-if="told?.others.length" :others="told.others" @changed="load" />
    <NewReward v-model="making" @made="load" />
    <PlaybillDialog v-model="playbill" />
    <TableDialog v-model="table" @taken="load" />
    <RewardDrawer :row="openRow" @close="opened = null" @remove="attempt(() => takeOut([opened ?? '']))" />
  </div>
</template>

<style scoped>
.rewards {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  max-width: 1240px;
  margin: 0 auto;
}

.search {
  width: 190px;
}

.sort {
  width: 200px;
}

.second {
  flex-wrap: wrap;
}

.earn {
  color: var(--soft);
}

.per-min {
  width: 84px;
}

.list {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 10px;
  margin: 0;
  padding: 0;
  list-style: none;
}

.list.dense {
  grid-template-columns: minmax(0, 1fr);
  gap: 3px;
}

@media (max-width: 960px) {
  .list {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
