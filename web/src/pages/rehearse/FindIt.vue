<script setup lang="ts">
/** One setting over a range: the result of each value, as curves with their range. A click sets a value. */
import { computed, ref, watch } from 'vue'
import { useBook } from '@/composables/useBook'
import { useChart } from '@/composables/useChart'
import type { Rehearsal, RehearsalWish } from '@/composables/useRehearsal'
import { figure, MOST_VALUES, plain, settingsOf, spread, valuesOf, type Setting } from '@/logic/nights'
import ChartTable from '@/parts/night/ChartTable.vue'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'

const props = defineProps<{ rehearsal: Rehearsal | null; busy: boolean; can: boolean }>()
const emit = defineEmits<{
  run: [wish: Partial<RehearsalWish>]
  stop: []
  set: [setting: string, value: number | string]
}>()
const book = useBook()

const settings = computed<Setting[]>(() => (book.book ? settingsOf(book.book) : []))
const path = ref('')
const setting = computed(() => settings.value.find((one) => one.path === path.value) ?? settings.value[0])
const from = ref(0)
const to = ref(1)
const step = ref(1)
const nights = ref(20)
watch(
  () => setting.value?.path,
  () => {
    const range = setting.value?.range
    if (range) [from.value, to.value, step.value] = range
  },
  { immediate: true },
)
const values = computed<(number | string)[]>(() =>
  setting.value?.range ? valuesOf(from.value, to.value, step.value) : (setting.value?.choices ?? []),
)
function run(): void {
  const one = setting.value
  if (one) emit('run', { nights: nights.value, sweep: { setting: one.path, values: values.value } })
}

const CURVES: [string, string][] = [
  ['refunds', '--berry'],
  ['wait_p95_s', '--marmalade'],
  ['seen', '--mint'],
]
const swept = computed(() => (props.rehearsal?.setting ? props.rehearsal : null))
const points = computed(() => (swept.value?.points ?? []).filter((point) => point.nights))
const nodes = CURVES.map(() => ref<HTMLElement>())
const nameOf = (one: string): string => settings.value.find((row) => row.path === one)?.name ?? one
const now = computed(() => settings.value.find((row) => row.path === swept.value?.setting)?.now)

for (const [i, [name, token]] of CURVES.entries()) {
  useChart(
    nodes[i]!,
    ({ colour, label, tooltip, line }) => {
      const scale = name === 'seen' ? 100 : 1
      const at = (side: 'low' | 'median' | 'high') =>
        points.value.map((point) => (point.figures[name]?.[side] ?? 0) * scale)
      const plain = {
        type: 'line',
        symbol: 'none',
        lineStyle: { opacity: 0 },
        silent: true,
        stack: 'range',
        color: colour(token),
      }
      const low = at('low')
      return {
        grid: { left: 46, right: 14, top: 12, bottom: 24 },
        tooltip: {
          ...tooltip,
          formatter: (rows: unknown) => {
            const n = (rows as { dataIndex: number }[])[0]?.dataIndex ?? 0
            const point = points.value[n]
            return point?.figures[name] ? `${String(point.value)}: ${spread(name, point.figures[name])}` : ''
          },
        },
        xAxis: {
          type: 'category',
          data: points.value.map((point) => String(point.value)),
          axisLabel: label,
          axisLine: line,
          boundaryGap: false,
        },
        yAxis: { type: 'value', min: 0, axisLabel: label, splitLine: line, splitNumber: 3 },
        series: [
          { ...plain, data: low },
          { ...plain, areaStyle: { opacity: 0.2 }, data: at('high').map((high, n) => high - (low[n] ?? 0)) },
          {
            type: 'line',
            data: at('median'),
            color: colour(token),
            lineStyle: { width: 3 },
            symbol: 'circle',
            symbolSize: 10,
            triggerLineEvent: false,
          },
        ],
      }
    },
    [points],
    ({ dataIndex }) => choose(dataIndex),
  )
}
const chosen = ref<number | null>(null)
watch(
  () => swept.value?.id,
  () => (chosen.value = null),
)
function choose(index: number): void {
  chosen.value = index
}
function put(): void {
  const point = points.value[chosen.value ?? -1]
  if (point && swept.value) emit('set', swept.value.setting, point.value as number | string)
}
</script>

<template>
  <section class="card find" aria-label="Find it">
    <div class="row wrap">
      <PickField
        class="setting"
        :model-value="setting?.path ?? ''"
        aria-label="Setting"
        data-test="setting"
        :choices="settings.map((one) => ({ value: one.path, name: one.name }))"
        @update:model-value="path = $event"
      />
      <template v-if="setting?.range">
        <label class="row small"
          >from <NumberField v-model="from" class="number" :least="0" aria-label="from"
        /></label>
        <label class="row small"
          >to <NumberField v-model="to" class="number" :least="0" aria-label="to"
        /></label>
        <label class="row small"
          >by <NumberField v-model="step" class="number" :least="0.1" aria-label="by"
        /></label>
      </template>
      <label class="row small"
        >nights each
        <NumberField v-model="nights" class="number" :least="1" :most="100" whole aria-label="nights each"
      /></label>
      <button class="btn main" :disabled="busy || !can || !values.length" data-test="sweep" @click="run">
        Try {{ values.length }} values
      </button>
      <button v-if="busy" class="btn" data-test="stop-sweep" @click="emit('stop')">Stop</button>
    </div>
    <p v-if="setting && !values.length" class="soft" role="status">
      Use at most {{ MOST_VALUES }} values: choose a larger step.
    </p>
    <p v-if="!swept" class="soft">
      Choose a setting and a range. Each value is rehearsed over the same nights, so you can compare refunds,
      waits and screen time.
    </p>
    <template v-else>
      <div class="row wrap">
        <h2>{{ nameOf(swept.setting) }}</h2>
        <span class="soft small">it is {{ now }} now</span>
        <span class="grow"></span>
        <button class="btn main" :disabled="chosen === null" data-test="set-value" @click="put">
          {{ chosen === null ? 'Choose a value below' : `Set it to ${points[chosen]?.value}` }}
        </button>
      </div>
      <div class="values" role="radiogroup" aria-label="Value">
        <button
          v-for="(point, i) in points"
          :key="String(point.value)"
          class="btn tiny"
          role="radio"
          :aria-checked="chosen === i"
          :class="{ main: chosen === i }"
          :data-test="`value-${point.value}`"
          @click="choose(i)"
        >
          {{ point.value }}
        </button>
      </div>
    </template>
    <div v-show="swept" class="curves" data-test="curves">
      <ChartTable
        v-for="([name], i) in CURVES"
        :key="name"
        :title="plain(swept?.words[name] ?? name)"
        :file="name"
        :head="['value', 'nights', 'median', 'lowest', 'highest']"
        :rows="
          points.map((point) => [
            String(point.value),
            point.nights,
            ...(['median', 'low', 'high'] as const).map((side) =>
              figure(name, point.figures[name]?.[side] ?? 0),
            ),
          ])
        "
      >
        <div
          :ref="
            (node) => {
              nodes[i]!.value = (node as HTMLElement) ?? undefined
            }
          "
          class="drawn"
          role="img"
          :aria-label="`${swept?.words[name] ?? name} at each value`"
        ></div>
      </ChartTable>
    </div>
  </section>
</template>

<style scoped>
.find {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
}

.wrap {
  flex-wrap: wrap;
}

.setting {
  width: min(320px, 100%);
}

.number {
  width: 110px;
}

.values {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.curves {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(340px, 100%), 1fr));
  gap: 16px;
}

.drawn {
  min-width: 0;
  height: 210px;
  overflow: hidden;
  background: var(--ground);
  border-radius: 6px;
}
</style>
