<script setup lang="ts">
/** Two books over the same nights: what differs, and the results. */
import { computed, ref } from 'vue'
import type { Rehearsal } from '@/composables/useRehearsal'
import { figure, plain, spread } from '@/logic/nights'

const props = defineProps<{ rehearsal: Rehearsal }>()
/** For these less is better; for the others the streamer decides. */
const LESS = [
  'refunds',
  'dropped',
  'points_refunded',
  'wait_median_s',
  'wait_p95_s',
  'wait_longest_s',
  'longest_quiet_s',
]
const rows = computed(() =>
  Object.entries(props.rehearsal.shifts).map(([name, shift]) => {
    const by = shift.by.median
    // What is too small to be told has no direction, either.
    const size = figure(name, Math.abs(by))
    const sign = size === figure(name, 0) ? '±' : by > 0 ? '+' : '−'
    const tone = sign === '±' || !LESS.includes(name) ? '' : by < 0 ? 'better' : 'worse'
    const signed = `${sign}${size}`
    const range =
      shift.by.low === shift.by.high ? '' : `${figure(name, shift.by.low)} to ${figure(name, shift.by.high)}`
    return {
      name,
      words: plain(props.rehearsal.words[name] ?? name),
      was: spread(name, shift.before),
      now: spread(name, shift.after),
      signed,
      range,
      tone,
      differs: shift.by.low !== 0 || shift.by.high !== 0,
    }
  }),
)
/** Equal results are folded away. */
const all = ref(false)
const shown = computed(() => rows.value.filter((row) => all.value || row.differs))
const same = computed(() => rows.value.filter((row) => !row.differs).length)
const nights = computed(() => props.rehearsal.books[0]?.nights ?? 0)
</script>

<template>
  <section class="card" aria-label="Two books" data-test="two-books">
    <div class="card-title">
      <h2>{{ rehearsal.told[0] }} and {{ rehearsal.told[1] }}</h2>
      <span class="soft small"
        >{{ nights }} {{ nights === 1 ? 'night' : 'nights' }} each; compared night by night</span
      >
    </div>
    <p v-if="!rehearsal.differ.length" class="soft">
      The two books are identical.
      <template v-if="same < rows.length && rehearsal.assumed.length">
        The differences come from the assumptions: {{ rehearsal.assumed.join(' ') }}
      </template>
    </p>
    <ul v-else class="differ small">
      <li v-for="line in rehearsal.differ.slice(0, 8)" :key="line">{{ line }}</li>
      <li v-if="rehearsal.differ.length > 8" class="soft">{{ rehearsal.differ.length - 8 }} more</li>
    </ul>
    <table v-if="shown.length">
      <thead>
        <tr>
          <th></th>
          <th>{{ rehearsal.told[0] }}</th>
          <th>{{ rehearsal.told[1] }}</th>
          <th>difference</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in shown" :key="row.name" :data-test="`shift-${row.name}`">
          <td class="soft">{{ row.words }}</td>
          <td>{{ row.was }}</td>
          <td>{{ row.now }}</td>
          <td :class="row.tone">
            <b>{{ row.signed }}</b> <span v-if="row.range" class="soft small">({{ row.range }})</span>
          </td>
        </tr>
      </tbody>
    </table>
    <button v-if="same" class="btn tiny same" :aria-expanded="all" @click="all = !all">
      {{ all ? 'Differences only' : `${same} figures are the same` }}
    </button>
  </section>
</template>

<style scoped>
.differ {
  margin: 0 0 10px;
  padding-left: 18px;
}

table {
  width: 100%;
  border-collapse: collapse;
}

th {
  color: var(--soft);
  font-weight: 400;
  text-align: left;
}

th,
td {
  padding: 3px 12px 3px 0;
  border-bottom: 1px solid var(--line);
}

.card-title h2::first-letter {
  text-transform: uppercase;
}

.same {
  margin-top: 8px;
}

.better b {
  color: var(--mint);
}

.worse b {
  color: var(--berry);
}
</style>
