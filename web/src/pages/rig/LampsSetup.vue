<script setup lang="ts">
/** The lamps: where each listens, its rest (changed by hand here, as their wire is one-way), and groups. */
import { computed, ref, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useGear, type GearState } from '@/composables/useGear'
import { attempt } from '@/composables/useSay'
import { freeId } from '@/logic/ids'
import NumberField from '@/parts/NumberField.vue'
import LampRow from './LampRow.vue'
import { pathOf } from '@/logic/paths'

const props = defineProps<{ gear: GearState }>()
const book = useBook()
const all = useGear()
const entry = computed(() => book.book?.gear.find((g) => g.id === props.gear.id))
const fixtures = computed(() => entry.value?.fixtures ?? [])
const groups = computed(() => entry.value?.groups ?? [])
const where = ref<Map<string, Schemas['LampOut']>>(new Map())

watch(
  () => [props.gear.id, book.version],
  async () => {
    const params = { path: { gear_id: props.gear.id } }
    const rows = await got(api.GET('/api/gear/{gear_id}/lamps', { params })).catch(() => [])
    where.value = new Map(rows.map((row) => [row.id, row]))
  },
  { immediate: true },
)

function save(fields: Record<string, unknown>): Promise<unknown> {
  return attempt(async () => {
    if (entry.value) await book.put('gear', { ...entry.value, ...fields })
    await all.load()
  })
}

function change(id: string, fields: Record<string, unknown>): void {
  void save({ fixtures: fixtures.value.map((f) => (f.id === id ? { ...f, ...fields } : f)) })
}

function add(): void {
  const id = freeId('lamp', new Set([...fixtures.value, ...groups.value].map((f) => f.id)))
  void save({ fixtures: [...fixtures.value, { id, name: `Lamp ${fixtures.value.length + 1}` }] })
}

function addGroup(): void {
  const id = freeId('group', new Set([...fixtures.value, ...groups.value].map((f) => f.id)))
  void save({ groups: [...groups.value, { id, name: `Group ${groups.value.length + 1}`, fixtures: [] }] })
}

function inGroup(groupId: string, lamp: string, on: boolean): void {
  void save({
    groups: groups.value.map((g) =>
      g.id === groupId
        ? { ...g, fixtures: on ? [...g.fixtures, lamp] : g.fixtures.filter((f) => f !== lamp) }
        : g,
    ),
  })
}

/** Imports lamps of a table (CSV); others stay. */
async function takeIn(file: File | undefined): Promise<void> {
  if (!file) return
  await attempt(async () => {
    const params = { path: { gear_id: props.gear.id } }
    const body = { text: await file.text() }
    await book.edit(() => got(api.POST('/api/gear/{gear_id}/lamps.csv', { params, body })))
    await all.load()
  })
}

const rest = (path: string): unknown => props.gear.properties.find((p) => p.path === path)?.rest

async function hand(path: string, value: string | number): Promise<void> {
  await attempt(async () => {
    const params = { path: { gear_id: props.gear.id } }
    await got(api.POST('/api/gear/{gear_id}/hand', { params, body: { path, value } }))
    await all.load()
  })
}
const valueOf = (event: Event): string => (event.target as HTMLInputElement).value
</script>

<template>
  <div class="setup">
    <table class="small">
      <thead>
        <tr>
          <th>Lamp</th>
          <th>Profile</th>
          <th>Universe</th>
          <th>First channel</th>
          <th title="How brightness follows the level: 2.2 suits most lamps, 1 is linear">Gamma</th>
          <th title="Left out of “All lamps”">Exempt</th>
          <th>At rest</th>
          <th v-for="group in groups" :key="group.id">
            <input
              class="well head"
              :value="group.name"
              aria-label="Group name"
              @change="
                save({ groups: groups.map((g) => (g.id === group.id ? { ...g, name: valueOf($event) } : g)) })
              "
            />
            <button
              class="btn tiny"
              :aria-label="`Take the group ${group.name} away`"
              @click="save({ groups: groups.filter((g) => g.id !== group.id) })"
            >
              ×
            </button>
          </th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <LampRow
          v-for="lamp in fixtures"
          :key="lamp.id"
          :lamp="lamp"
          :place="where.get(lamp.id)"
          :groups="groups"
          :colour="String(rest(pathOf('light', lamp.id, 'colour')) ?? '#000000')"
          :level="Number(rest(pathOf('light', lamp.id, 'level')) ?? 1)"
          @change="change(lamp.id, $event)"
          @hand="(what, value) => hand(pathOf('light', lamp.id, what), value)"
          @group="(group, on) => inGroup(group, lamp.id, on)"
          @remove="save({ fixtures: fixtures.filter((f) => f.id !== lamp.id) })"
        />
      </tbody>
    </table>
    <p v-for="row in [...where.values()].filter((r) => r.problem)" :key="row.id" class="wrong small">
      {{ fixtures.find((f) => f.id === row.id)?.name || row.id }}: {{ row.problem }}
    </p>
    <p v-if="!fixtures.length" class="soft small">No lamps yet.</p>
    <div class="row">
      <button class="btn tiny" data-test="add-lamp" @click="add">New lamp</button>
      <button class="btn tiny" :disabled="!fixtures.length" @click="addGroup">New group</button>
      <label class="row small" title="If several programs control the lamps, the highest priority wins."
        >Priority
        <NumberField
          class="slim"
          :least="0"
          :most="200"
          :model-value="entry?.priority ?? 100"
          data-test="priority"
          aria-label="Priority"
          narrow
          whole
          @update:model-value="save({ priority: $event })"
        />
      </label>
      <span class="grow"></span>
      <a v-if="fixtures.length" class="btn tiny" :href="`/api/gear/${gear.id}/lamps.csv`" download
        >Export table</a
      >
      <label class="btn tiny">
        Import table…
        <input
          type="file"
          class="unseen"
          accept=".csv,text/csv"
          data-test="lamps-in"
          @change="takeIn(($event.target as HTMLInputElement).files?.[0])"
        />
      </label>
    </div>
  </div>
</template>

<style scoped>
.setup {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
  overflow-x: auto;
}

table {
  border-collapse: collapse;
}

th {
  text-align: left;
  color: var(--soft);
  font-weight: 400;
  white-space: nowrap;
}

td,
th {
  padding: 2px 8px 2px 0;
}

.slim {
  width: 76px;
}

.head {
  width: 90px;
}

.wrong {
  color: var(--berry);
  margin: 0;
}
</style>
