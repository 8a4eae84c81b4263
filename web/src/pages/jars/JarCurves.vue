<script setup lang="ts">
/** Curves: the chance that each entry has come up after a number of draws. */
import { ref } from 'vue'
import { useChart } from '@/composables/useChart'
import { layerColour } from './layers'

/** `seen[n][i]`: the chance that entry `i` was drawn at least once in `n + 1` draws. */
const props = defineProps<{ names: string[]; seen: number[][] }>()
const node = ref<HTMLElement>()

const percent = (share: number): string => `${Math.round(share * 100)} %`

/** The token of a colour of the page. */
const tokenOf = (name: string): string => /^var\((--[a-z-]+)\)$/.exec(name)?.[1] ?? name

useChart(
  node,
  ({ colour, label, tooltip, line }) => ({
    grid: { left: 52, right: 14, top: 12, bottom: 24 },
    tooltip: {
      ...tooltip,
      order: 'valueDesc',
      valueFormatter: (value: unknown) => percent(Number(value)),
    },
    xAxis: {
      type: 'category',
      data: props.seen.map((_, n) => n + 1),
      boundaryGap: false,
      axisLabel: label,
      axisLine: line,
      axisTick: { show: false },
    },
    yAxis: {
      type: 'value',
      min: 0,
      max: 1,
      interval: 0.5,
      axisLabel: { ...label, formatter: percent },
      splitLine: line,
    },
    series: props.names.map((name, i) => ({
      name,
      type: 'line',
      showSymbol: false,
      data: props.seen.map((row) => row[i] ?? 0),
      lineStyle: { width: 2 },
      color: colour(tokenOf(layerColour(i))),
    })),
  }),
  [() => props.names, () => props.seen],
)
</script>

<template>
  <div
    ref="node"
    class="curves"
    role="img"
    aria-label="Chance of having seen each entry"
    data-test="curves"
  ></div>
</template>

<style scoped>
/* What is drawn for a wider window does not hold this one open. */
.curves {
  min-width: 0;
  overflow: hidden;
  height: 150px;
  background: var(--ground);
  border-radius: 6px;
}
</style>
