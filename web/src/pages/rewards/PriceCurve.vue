<script setup lang="ts">
/** The price in the coming hour, as steps; beside it the minutes of watching. */
import { ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useChart } from '@/composables/useChart'
import { sayMinutes } from '@/logic/duration'

const props = defineProps<{ points: Schemas['PointOut'][]; perMinute: number }>()
const node = ref<HTMLElement>()
const HOUR = 60

useChart(
  node,
  ({ colour, label, tooltip, line }) => {
    const last = props.points.at(-1)
    return {
      grid: { left: 62, right: 72, top: 14, bottom: 26 },
      tooltip: {
        ...tooltip,
        formatter: (rows: unknown) => {
          const [minute, cost] = (rows as { value: [number, number] }[])[0]?.value ?? [0, 0]
          return `minute ${Math.floor(minute)}: ${cost.toLocaleString()}, ${sayMinutes(cost / props.perMinute)}`
        },
      },
      xAxis: {
        type: 'value',
        min: 0,
        max: HOUR,
        interval: 15,
        axisLabel: { ...label, formatter: (minute: number) => `${minute} min` },
        axisLine: line,
        splitLine: { show: false },
      },
      yAxis: [
        {
          type: 'value',
          min: 0,
          axisLabel: label,
          splitNumber: 3,
          splitLine: line,
        },
      ],
      series: [
        {
          type: 'line',
          step: 'end',
          showSymbol: false,
          data: [
            ...props.points.map((point) => [point.minute, point.cost]),
            ...(last ? [[HOUR, last.cost]] : []),
          ],
          lineStyle: { width: 3 },
          areaStyle: { opacity: 0.16 },
          color: colour('--marmalade'),
          endLabel: {
            show: true,
            formatter: (at: { value: unknown }) => String((at.value as number[])[1]?.toLocaleString() ?? ''),
            color: colour('--ink'),
            fontFamily: 'inherit',
            fontWeight: 700,
          },
        },
      ],
    }
  },
  [() => props.points],
)
</script>

<template>
  <div
    ref="node"
    class="curve"
    role="img"
    :aria-label="`The price over the coming hour`"
    data-test="price-curve"
  ></div>
</template>

<style scoped>
.curve {
  min-width: 0;
  height: 170px;
  overflow: hidden;
  background: var(--ground);
  border-radius: 6px;
}
</style>
