<script setup lang="ts">
/** Calls over time with their results; and how long they waited. */
import { computed, ref } from 'vue'
import { useChart } from '@/composables/useChart'
import { callsOf, clock, type Timeline } from '@/logic/nights'
import ChartTable from './ChartTable.vue'

const props = defineProps<{ night: Timeline }>()
const STEPS = 48
const calls = computed(() => callsOf(props.night))
const step = computed(() => Math.max(1, props.night.length / STEPS))
const rows = computed(() => {
  const found = Array.from({ length: STEPS }, (_, i) => ({ at: i * step.value, in: 0, away: 0, back: 0 }))
  for (const call of calls.value) {
    const row = found[Math.min(STEPS - 1, Math.floor(Math.max(0, call.at) / step.value))]
    if (!row) continue
    if (call.reason) row.away += 1
    else if (call.outcome === 'refunded') row.back += 1
    else row.in += 1
  }
  return found
})
const EDGES = [0, 1, 5, 15, 30, 60, 120, 300]
const waits = computed(() => {
  const waited = calls.value.flatMap((call) => (call.waited === null ? [] : [call.waited / 1000]))
  return EDGES.map((from, i) => {
    const to = EDGES[i + 1] ?? Infinity
    const name = i === 0 ? 'under 1' : to === Infinity ? `over ${from}` : `${from} to ${to}`
    return { name, count: waited.filter((one) => one >= from && one < to).length }
  })
})

const coming = ref<HTMLElement>()
useChart(
  coming,
  ({ colour, label, tooltip, line }) => ({
    grid: { left: 40, right: 10, top: 30, bottom: 24 },
    tooltip,
    legend: { top: 0, textStyle: label, itemWidth: 12, itemHeight: 10 },
    xAxis: {
      type: 'category',
      data: rows.value.map((row) => clock(row.at)),
      axisLabel: label,
      axisLine: line,
    },
    yAxis: { type: 'value', axisLabel: label, splitLine: line, minInterval: 1 },
    series: (
      [
        ['let in', 'in', '--marmalade'],
        ['refunded', 'back', '--sky'],
        ['refused', 'away', '--berry'],
      ] as const
    ).map(([name, key, token]) => ({
      name,
      type: 'bar',
      stack: 'calls',
      barCategoryGap: '15%',
      color: colour(token),
      data: rows.value.map((row) => row[key]),
    })),
  }),
  [rows],
)
const waiting = ref<HTMLElement>()
useChart(
  waiting,
  ({ colour, label, tooltip, line }) => ({
    grid: { left: 40, right: 10, top: 12, bottom: 24 },
    tooltip,
    xAxis: {
      type: 'category',
      data: waits.value.map((row) => row.name),
      axisLabel: { ...label, interval: 0, fontSize: 11 },
      axisLine: line,
    },
    yAxis: { type: 'value', axisLabel: label, splitLine: line, minInterval: 1 },
    series: [
      { name: 'runs', type: 'bar', color: colour('--sage'), data: waits.value.map((row) => row.count) },
    ],
  }),
  [waits],
)
</script>

<template>
  <div class="charts">
    <ChartTable
      title="Calls over time"
      file="calls"
      :head="['from', 'let in', 'refunded', 'refused']"
      :rows="rows.map((row) => [clock(row.at), row.in, row.back, row.away])"
    >
      <div ref="coming" class="drawn" role="img" aria-label="Calls over time, by result"></div>
    </ChartTable>
    <ChartTable
      title="Waiting time in seconds"
      file="waits"
      :head="['waited (s)', 'runs']"
      :rows="waits.map((row) => [row.name, row.count])"
    >
      <div ref="waiting" class="drawn" role="img" aria-label="Waiting time of runs"></div>
    </ChartTable>
  </div>
</template>

<style scoped>
.charts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(380px, 100%), 1fr));
  gap: 16px;
}

.drawn {
  min-width: 0;
  height: 170px;
  overflow: hidden;
  background: var(--ground);
  border-radius: 6px;
}
</style>
