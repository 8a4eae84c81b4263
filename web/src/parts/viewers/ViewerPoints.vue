<script setup lang="ts">
/** A viewer's own points: their balance and its history, set by hand with a reason, or merged with another's. */
import { computed, ref } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'
import NumberField from '@/parts/NumberField.vue'

const props = defineProps<{ card: Schemas['CardOut'] }>()
const emit = defineEmits<{ changed: [] }>()
const book = useBook()
const held = ref<number | null>(null)
const why = ref('')
const other = ref('')
const found = ref<Schemas['ViewerOut'][]>([])
const name = computed(() => book.book?.points.name ?? 'points')
const account = computed(() => props.card.account)
const WORDS: Record<string, string> = {
  earned: 'earned',
  spent: 'spent',
  refunded: 'refunded',
  given: 'by hand',
  merged: 'merged',
}
const round = (points: number): string => Math.floor(points).toLocaleString()

async function give(): Promise<void> {
  if (held.value === null) return
  const body = { viewer: props.card.viewer.id, held: held.value, why: why.value.trim() }
  await got(api.POST('/api/viewers/points', { body }))
  held.value = null
  why.value = ''
  emit('changed')
}

async function find(): Promise<void> {
  const query = { text: other.value, sort: 'last' as const, limit: 6, skip: 0 }
  const answer = await got(api.GET('/api/viewers', { params: { query } }))
  found.value = answer.viewers.filter((one) => one.id !== props.card.viewer.id)
}

async function merge(into: Schemas['ViewerOut']): Promise<void> {
  await got(api.POST('/api/viewers/merge', { body: { viewer: props.card.viewer.id, into: into.id } }))
  found.value = []
  say(`${props.card.viewer.name} now uses the points of ${into.name} .`, 'fine')
  emit('changed')
}
</script>

<template>
  <section class="points" aria-label="Own points">
    <h2>
      {{ account ? round(account.held) : 0 }} <span class="soft">{{ name }}</span>
    </h2>
    <p v-if="account" class="small soft sums">
      earned {{ round(account.earned) }}, by hand {{ round(account.given) }}, spent
      {{ round(account.spent) }}, refunded
      {{ round(account.refunded) }}
    </p>
    <form class="row" @submit.prevent="attempt(give)">
      <NumberField
        class="held"
        :model-value="held"
        :least="0"
        :most="1_000_000_000"
        whole
        optional
        narrow
        hint="Set to"
        aria-label="New balance"
        @update:model-value="held = $event"
        @clear="held = null"
      />
      <input v-model="why" class="well grow" maxlength="200" placeholder="Why" aria-label="Why" />
      <button class="btn" :disabled="held === null || !why.trim()" data-test="give">Set</button>
    </form>
    <ul v-if="card.paid.length" class="paid small">
      <li v-for="one in card.paid" :key="one.at + one.what">
        <span>{{ WORDS[one.what] ?? one.what }}</span>
        <strong>{{ one.what === 'spent' ? '−' : '' }}{{ one.amount.toLocaleString() }}</strong>
        <span class="soft">{{ one.why }}</span>
        <span class="soft">{{
          new Date(one.at).toLocaleString([], { dateStyle: 'short', timeStyle: 'short' })
        }}</span>
      </li>
    </ul>
    <form class="row" @submit.prevent="attempt(find)">
      <input
        v-model="other"
        class="well grow"
        placeholder="The same person as…"
        aria-label="The same person as"
      />
      <button class="btn" :disabled="!other.trim()">Find</button>
    </form>
    <button v-for="one in found" :key="one.id" class="btn tiny" @click="attempt(() => merge(one))">
      Merge into {{ one.name }} ({{ one.held ?? 0 }})
    </button>
  </section>
</template>

<style scoped>
.points {
  display: grid;
  gap: 8px;
  padding-top: 12px;
  border-top: 1px solid var(--line);
}

.sums {
  margin: 0;
}

.held {
  width: 110px;
}

.row {
  flex-wrap: nowrap;
}

.paid {
  display: grid;
  gap: 2px;
  max-height: 160px;
  overflow: auto;
  margin: 0;
  padding: 0;
  list-style: none;
}

.paid li {
  display: grid;
  grid-template-columns: 70px 70px minmax(0, 1fr) max-content;
  gap: 8px;
}
</style>
