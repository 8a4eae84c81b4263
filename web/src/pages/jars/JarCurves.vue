<script setup lang="ts">
/** How likely each entry has been seen after so many draws, as curves. */
import { LineChart } from 'echarts/charts'
import { GridComponent, TooltipComponent } from 'echarts/components'
import * as echarts from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useResizeObserver } from '@vueuse/core'
import { onMounted, onUnmounted, ref, shallowRef, watch } from 'vue'
import { theme } from '@/composables/useLook'
import { layerColour } from './layers'

/** `seen[n][i]`: the chance that entry `i` was drawn at least once in `n + 1` draws. */
const props = defineProps<{ names: string[]; seen: number[][] }>()
const node = ref<HTMLElement>()
const chart = shallowRef<echarts.ECharts>()
echarts.use([LineChart, GridComponent, TooltipComponent, SVGRenderer])

const percent = (share: number): string => `${Math.round(share * 100)} %`

/** Colours of the page, also those that are named by a token. */
function colour(name: string): string {
  const token = /^var\((--[a-z-]+)\)$/.exec(name)?.[1] ?? (name.startsWith('--') ? name : '')
  return token && node.value ? getComputedStyle(node.value).getPropertyValue(token).trim() : name
}

function draw(): void {
  const label = { color: colour('--soft'), fontFamily: 'inherit', fontSize: 12 }
  chart.value?.setOption(
    {
      animation: false,
      grid: { left: 52, right: 14, top: 12, bottom: 24 },
      tooltip: {
        trigger: 'axis',
        order: 'valueDesc',
        confine: true,
        backgroundColor: colour('--raised'),
        borderColor: colour('--line'),
        textStyle: { color: colour('--ink'), fontFamily: 'inherit', fontSize: 13 },
        valueFormatter: (value: unknown) => percent(Number(value)),
      },
      xAxis: {
        type: 'category',
        data: props.seen.map((_, n) => n + 1),
        boundaryGap: false,
        axisLabel: label,
        axisLine: { lineStyle: { color: colour('--line') } },
        axisTick: { show: false },
      },
      yAxis: {
        type: 'value',
        min: 0,
        max: 1,
        interval: 0.5,
        axisLabel: { ...label, formatter: percent },
        splitLine: { lineStyle: { color: colour('--line') } },
      },
      series: props.names.map((name, i) => ({
        name,
        type: 'line',
        showSymbol: false,
        data: props.seen.map((row) => row[i] ?? 0),
        lineStyle: { width: 2 },
        color: colour(layerColour(i)),
      })),
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
watch([() => props.names, () => props.seen, theme], draw, { flush: 'post' })
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
