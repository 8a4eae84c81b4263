<script setup lang="ts">
/** The price of the coming hour, as a stair; beside it what it costs in minutes of watching. */
import { LineChart } from 'echarts/charts'
import { GridComponent, TooltipComponent } from 'echarts/components'
import * as echarts from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useResizeObserver } from '@vueuse/core'
import { onMounted, onUnmounted, ref, shallowRef, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { theme } from '@/composables/useLook'
import { sayMinutes } from '@/logic/tickets'

const props = defineProps<{ points: Schemas['PointOut'][]; perMinute: number }>()
const node = ref<HTMLElement>()
const chart = shallowRef<echarts.ECharts>()
echarts.use([LineChart, GridComponent, TooltipComponent, SVGRenderer])
const HOUR = 60

function draw(): void {
  if (!node.value) return
  const style = getComputedStyle(node.value)
  const colour = (token: string): string => style.getPropertyValue(token).trim()
  const label = { color: colour('--soft'), fontFamily: 'inherit', fontSize: 12 }
  const last = props.points.at(-1)
  chart.value?.setOption(
    {
      animation: false,
      grid: { left: 62, right: 72, top: 14, bottom: 26 },
      tooltip: {
        trigger: 'axis',
        confine: true,
        backgroundColor: colour('--raised'),
        borderColor: colour('--line'),
        textStyle: { color: colour('--ink'), fontFamily: 'inherit', fontSize: 13 },
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
        axisLine: { lineStyle: { color: colour('--line') } },
        splitLine: { show: false },
      },
      yAxis: [
        {
          type: 'value',
          min: 0,
          axisLabel: label,
          splitNumber: 3,
          splitLine: { lineStyle: { color: colour('--line') } },
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
    },
    { notMerge: true },
  )
}

onMounted(() => {
  chart.value = echarts.init(node.value, undefined, { renderer: 'svg' })
  draw()
})
onUnmounted(() => chart.value?.dispose())
useResizeObserver(node, () => chart.value?.resize())
watch([() => props.points, theme], draw, { flush: 'post' })
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
