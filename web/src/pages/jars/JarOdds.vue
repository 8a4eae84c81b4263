<script setup lang="ts">
/** The odds: per draw, in the long run, seen after n draws; and the results of a thousand draws against the expected ones. */
import { computed, defineAsyncComponent } from 'vue'
import { layerColour } from './layers'
import type { Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'

const JarCurves = defineAsyncComponent(() => import('./JarCurves.vue'))

/** Viewers are only drawn by a cue. */
const props = defineProps<{
  odds: Schemas['Odds']
  drawn: Schemas['Drawn'][]
  rule: string
  viewers?: boolean
}>()
defineEmits<{ draw: [] }>()
const book = useBook()

const most = computed(() => Math.max(1, ...props.drawn.map((d) => Math.max(d.times, d.expected))))

const names = computed(() => new Map(props.odds.entries.map((one) => [one.value, one.name])))

function name(value: string): string {
  return names.value.get(value) || (book.mediaById.get(value)?.name ?? value)
}
</script>

<template>
  <section class="card odds">
    <h2>Odds</h2>
    <table>
      <thead>
        <tr>
          <th><span class="unseen">what</span></th>
          <th class="right">per draw</th>
          <th class="right">long run</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(entry, i) in odds.entries.slice(0, 12)" :key="entry.value">
          <td class="cut-off">
            <i class="dot" :style="{ background: layerColour(i) }"></i>{{ name(entry.value) }}
          </td>
          <td v-if="viewers && !entry.can" class="right soft small">
            {{ rule === 'bag' ? 'had a turn' : 'just drawn' }}
          </td>
          <td v-else class="right">{{ (entry.share * 100).toFixed(1) }} %</td>
          <td class="right">{{ (entry.long_run * 100).toFixed(1) }} %</td>
        </tr>
      </tbody>
    </table>
    <p v-if="(odds.total ?? 0) > 12" class="soft small">and {{ (odds.total ?? 0) - 12 }} more</p>
    <template v-if="odds.seen.length && odds.entries.length > 1">
      <p class="soft small">
        Seen at least once after 1 to {{ odds.seen.length }} draws{{
          odds.mean_until_all ? `; all of them after ${odds.mean_until_all.toFixed(1)} on average` : ''
        }}
      </p>
      <JarCurves :names="odds.entries.map((entry) => name(entry.value))" :seen="odds.seen" />
    </template>
    <button
      v-if="!viewers"
      class="btn"
      data-test="draw-many"
      :disabled="!odds.entries.some((e) => e.can)"
      @click="$emit('draw')"
    >
      Draw 1,000
    </button>
    <ul v-if="drawn.length" class="bars">
      <li v-for="d in drawn" :key="d.value">
        <span class="small cut-off">{{ name(d.value) }}</span>
        <span class="bar"
          ><i :style="{ width: `${(d.times / most) * 100}%` }"></i
          ><b :style="{ left: `${(d.expected / most) * 100}%` }"></b
        ></span>
        <span class="right">{{ d.times }}</span>
      </li>
    </ul>
    <p v-if="drawn.length" class="soft small">The line marks the expected value.</p>
  </section>
</template>

<style scoped>
.odds {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
}

table {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
}

th {
  color: var(--soft);
  font-weight: 400;
  font-size: 13px;
}

th:first-child {
  width: 52%;
}

.right {
  text-align: right;
}

.dot {
  display: inline-block;
  width: 10px;
  height: 10px;
  margin-right: 8px;
}

p {
  margin: 0;
}

.bars {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 4px;
}

.bars li {
  display: grid;
  grid-template-columns: 100px 1fr 40px;
  gap: 8px;
  align-items: center;
}

.bar {
  position: relative;
  height: 14px;
  background: var(--ground);
}

.bar i {
  display: block;
  height: 100%;
  background: var(--marmalade);
}

.bar b {
  position: absolute;
  top: -2px;
  bottom: -2px;
  width: 2px;
  background: var(--ink);
}
</style>
