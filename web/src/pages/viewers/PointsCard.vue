<script setup lang="ts">
/** Own points, for channels without any: off by default; what earns how much, tables exported and imported. */
import { ElSwitch } from 'element-plus'
import { computed, ref } from 'vue'
import { api, got, type Book, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'
import NumberField from '@/parts/NumberField.vue'

type Points = Book['points']
type Rate = 'per_min' | 'member_factor' | 'follow' | 'month' | 'tip' | 'raid'
const emit = defineEmits<{ changed: [] }>()
const book = useBook()
const open = ref(false)
const points = computed(() => book.book?.points as Points)
const preview = ref<{ text: string; told: Schemas['BalancesOut'] } | null>(null)
const RATES: { key: Rate; name: string; least?: number }[] = [
  { key: 'per_min', name: 'per minute present' },
  { key: 'member_factor', name: 'multiplier for members', least: 1 },
  { key: 'follow', name: 'per follow' },
  { key: 'month', name: 'per month of membership' },
  { key: 'tip', name: 'per 1 tipped' },
  { key: 'raid', name: 'per raider' },
]

async function change(to: Partial<Points>): Promise<void> {
  await book.putPart('points', to)
  emit('changed')
}

function tier(at: number, rate: number): void {
  void attempt(() => change({ membership: points.value.membership.map((one, i) => (i === at ? rate : one)) }))
}

async function look(event: Event): Promise<void> {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  if (!file) return
  const text = await file.text()
  field.value = ''
  preview.value = { text, told: await got(api.POST('/api/viewers/table/preview', { body: { text } })) }
}

async function take(): Promise<void> {
  if (!preview.value) return
  const told = await got(api.POST('/api/viewers/table', { body: { text: preview.value.text } }))
  preview.value = null
  say(`${(told.counts.new ?? 0) + (told.counts.changed ?? 0)} balances imported.`, 'fine')
  emit('changed')
}
const useful = computed(
  () => (preview.value?.told.counts.new ?? 0) + (preview.value?.told.counts.changed ?? 0),
)
</script>

<template>
  <section v-if="points" class="card points" aria-label="Own points" data-test="points-card">
    <div class="row">
      <ElSwitch
        :model-value="points.on"
        aria-label="Own points"
        data-test="points-on"
        @update:model-value="attempt(() => change({ on: Boolean($event) }))"
      />
      <h2>Own points</h2>
      <span class="soft small grow">{{
        points.on
          ? 'Viewers earn them here and spend them in chat.'
          : 'For channels without points: viewers earn them by being there and spend them in chat.'
      }}</span>
      <template v-if="points.on">
        <a class="btn tiny" href="/api/viewers/points.csv" download>Export table</a>
        <label class="btn tiny">
          Import table…<input
            class="unseen"
            type="file"
            accept=".csv,text/csv"
            @change="attempt(() => look($event))"
          />
        </label>
        <button class="btn tiny" :aria-expanded="open" data-test="rates" @click="open = !open">
          {{ open ? 'Done' : 'Edit rates' }}
        </button>
      </template>
    </div>
    <div v-if="preview" class="preview">
      <p role="status">
        {{ preview.told.counts.new ?? 0 }} new, {{ preview.told.counts.changed ?? 0 }} changed,
        {{ preview.told.counts.same ?? 0 }} unchanged, {{ preview.told.counts.refused ?? 0 }} refused
      </p>
      <ul>
        <li
          v-for="row in preview.told.rows.filter((one) => one.what === 'refused').slice(0, 8)"
          :key="row.line"
          class="small"
        >
          line {{ row.line }}: {{ row.problem }}
        </li>
      </ul>
      <div class="row">
        <button class="btn main tiny" :disabled="!useful" @click="attempt(take)">Import {{ useful }}</button>
        <button class="btn tiny" @click="preview = null">Cancel</button>
      </div>
    </div>
    <div v-if="points.on && open" class="rates">
      <label class="field">
        Name
        <input
          class="well"
          maxlength="40"
          :value="points.name"
          @change="
            attempt(() => change({ name: ($event.target as HTMLInputElement).value.trim() || 'points' }))
          "
        />
      </label>
      <label v-for="rate in RATES" :key="rate.key" class="field">
        {{ rate.name }}
        <NumberField
          :model-value="points[rate.key]"
          :least="rate.least ?? 0"
          :most="rate.key === 'member_factor' ? 100 : 1_000_000"
          narrow
          :aria-label="rate.name"
          @update:model-value="attempt(() => change({ [rate.key]: $event }))"
        />
      </label>
      <label v-for="(rate, at) in points.membership" :key="at" class="field">
        per tier {{ at + 1 }}
        <NumberField
          :model-value="rate"
          :least="0"
          :most="1_000_000"
          narrow
          :aria-label="`Per tier ${at + 1}`"
          @update:model-value="tier(at, $event)"
        />
      </label>
      <label v-for="word in ['balance_word', 'list_word'] as const" :key="word" class="field">
        {{ word === 'balance_word' ? 'Chat word for balance' : 'Chat word for prices' }}
        <input
          class="well"
          maxlength="60"
          placeholder="off"
          :value="points[word]"
          @change="attempt(() => change({ [word]: ($event.target as HTMLInputElement).value.trim() }))"
        />
      </label>
    </div>
  </section>
</template>

<style scoped>
.points {
  display: grid;
  gap: 12px;
}

.rates {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 10px;
  align-items: end;
}

.preview ul,
.preview p {
  margin: 0 0 8px;
}
</style>
