/** An ECharts chart in the page's own colours: redrawn when its data, the theme or its size changes. */
import { useResizeObserver } from '@vueuse/core'
import { BarChart, LineChart } from 'echarts/charts'
import { GridComponent, LegendComponent, TooltipComponent } from 'echarts/components'
import * as echarts from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { onMounted, onUnmounted, watch, type Ref, type WatchSource } from 'vue'
import { theme } from '@/composables/useLook'

echarts.use([BarChart, LineChart, GridComponent, LegendComponent, TooltipComponent, SVGRenderer])

export interface Paint {
  /** A token as its current colour. */
  colour: (token: string) => string
  label: object
  tooltip: object
  line: object
}

export function useChart(
  node: Ref<HTMLElement | undefined>,
  options: (paint: Paint) => object,
  follows: WatchSource[],
  clicked?: (params: { dataIndex: number; seriesIndex?: number }) => void,
): void {
  let chart: echarts.ECharts | undefined
  function draw(): void {
    if (!node.value) return
    const style = getComputedStyle(node.value)
    const colour = (token: string): string => style.getPropertyValue(token).trim()
    const paint: Paint = {
      colour,
      label: { color: colour('--soft'), fontFamily: 'inherit', fontSize: 12 },
      tooltip: {
        trigger: 'axis',
        confine: true,
        backgroundColor: colour('--raised'),
        borderColor: colour('--line'),
        textStyle: { color: colour('--ink'), fontFamily: 'inherit', fontSize: 13 },
      },
      line: { lineStyle: { color: colour('--line') } },
    }
    chart?.setOption({ animation: false, ...options(paint) }, { notMerge: true })
  }
  onMounted(() => {
    if (!node.value) return
    chart = echarts.init(node.value, undefined, { renderer: 'svg' })
    if (clicked) chart.on('click', (params) => clicked(params as { dataIndex: number }))
    draw()
  })
  onUnmounted(() => chart?.dispose())
  useResizeObserver(node, () => chart?.resize())
  watch([...follows, theme], draw, { flush: 'post' })
}
