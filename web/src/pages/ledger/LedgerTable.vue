<script setup lang="ts">
/** Calls as rows: a press or Enter opens the trace below one, the arrows go from row to row. */
import { ElAutoResizer, ElTableV2, type Column } from 'element-plus'
import { computed, h, ref } from 'vue'
import type { LedgerLine } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { callerOf } from '@/logic/arrivals'
import TraceList from '@/parts/TraceList.vue'
import ViewerName from '@/parts/viewers/ViewerName.vue'

const props = defineProps<{ lines: LedgerLine[] }>()
const book = useBook()
const open = ref<number | null>(null)
const names = computed(() => new Map((book.book?.cues ?? []).map((cue) => [cue.id, cue.name])))

function when(ms: number): string {
  return new Date(ms).toLocaleString([], {
    month: 'short',
    day: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
  })
}

function tone(line: LedgerLine): string {
  if (line.outcome === 'refunded' || line.verdict === 'turned_away') return 'no'
  return line.verdict === 'ignored' ? 'plain' : 'yes'
}
/** A line, and below the open one a row with its trace. */
type Row = { id: string; line: LedgerLine; trace: boolean }
const rows = computed<Row[]>(() =>
  props.lines.flatMap((line) => {
    const row = { id: String(line.id), line, trace: false }
    return open.value === line.id ? [row, { id: `${line.id}-trace`, line, trace: true }] : [row]
  }),
)

function column(
  key: string,
  title: string,
  width: number,
  cell: (line: LedgerLine) => ReturnType<typeof h> | string,
  more: Partial<Column<Row>> = {},
): Column<Row> {
  return {
    key,
    dataKey: key,
    title,
    width,
    cellRenderer: ({ rowData }) => h('div', {}, cell(rowData.line)),
    ...more,
  }
}
const columns: Column<Row>[] = [
  column('when', 'When', 175, (line) => h('span', { class: 'soft nowrap' }, when(line.at))),
  column('who', 'Who', 150, (line) =>
    line.viewer ? h(ViewerName, { id: line.viewer, name: line.viewer_name }) : h('strong', callerOf(line)),
  ),
  column('called', 'Called', 190, (line) => names.value.get(line.cue) ?? (line.cue || line.reward || '–')),
  column('text', 'Text', 180, (line) => h('span', { class: 'text' }, line.text), { flexGrow: 1 }),
  column('verdict', 'Result', 250, (line) => h('span', { class: ['verdict', tone(line)] }, line.said), {
    flexGrow: 1,
  }),
  column('points', 'Points', 90, (line) => h('span', { class: 'nowrap' }, String(line.cost || '')), {
    align: 'right',
  }),
]

/** On a phone: no text and no points, which the trace has or the result says. */
const NARROW = 620
const narrow: Record<string, number> = { when: 98, who: 92, called: 84, verdict: 84 }
const fitting = (width: number): Column<Row>[] =>
  width >= NARROW
    ? columns
    : columns.flatMap((one) => {
        const wide = narrow[String(one.key)]
        return wide ? [{ ...one, width: wide }] : []
      })

function toggle(row: Row): void {
  if (!row.trace) open.value = open.value === row.line.id ? null : row.line.id
}
const rowClass = ({ rowData }: { rowData: Row }): string => (rowData.trace ? 'trace' : 'line')
const rowProps = ({ rowData }: { rowData: Row }): object => (rowData.trace ? {} : { tabindex: 0 })
const onRow = {
  onClick: ({ rowData }: { rowData: Row }) => toggle(rowData),
  onKeydown: ({ event, rowData }: { event: Event; rowData: Row }) => {
    const { key, currentTarget } = event as KeyboardEvent
    if (key === 'Enter') toggle(rowData)
    if (key !== 'ArrowDown' && key !== 'ArrowUp') return
    // Through the rows, skipping open traces.
    const all = [...document.querySelectorAll<HTMLElement>('.ledger .line[tabindex]')]
    const next = all[all.indexOf(currentTarget as HTMLElement) + (key === 'ArrowDown' ? 1 : -1)]
    if (!next) return
    next.focus()
    event.preventDefault()
  },
}
</script>

<template>
  <div class="card table">
    <ElAutoResizer v-slot="{ width, height }">
      <ElTableV2
        v-if="width && height"
        :class="width < NARROW ? 'narrow' : ''"
        :columns="fitting(width)"
        :data="rows"
        :width="width"
        :height="height"
        row-key="id"
        :estimated-row-height="40"
        :row-class="rowClass"
        :row-props="rowProps"
        :row-event-handlers="onRow"
      >
        <template #row="{ cells, rowData }">
          <TraceList v-if="rowData.trace" :line="rowData.line" />
          <component :is="cell" v-for="(cell, i) in cells" v-else :key="i" />
        </template>
      </ElTableV2>
    </ElAutoResizer>
  </div>
</template>

<style scoped>
/* The table is as wide as its card, never the card as its table: so it shrinks with the window. */
.table {
  min-width: 0;
  overflow: hidden;
  min-height: 240px;
  padding: 0;
}

.table :deep(.el-table-v2) {
  --el-table-bg-color: transparent;
  --el-table-tr-bg-color: transparent;
  --el-table-header-bg-color: transparent;
  --el-table-header-text-color: var(--soft);
  --el-table-row-hover-bg-color: var(--raised);
  font-size: inherit;
}

.table :deep(.el-table-v2__header-cell) {
  padding: 0 12px;
  font-weight: 400;
  font-size: 13px;
}

.table :deep(.el-table-v2__row-cell) {
  padding: 8px 12px;
  align-items: start;
}

.table :deep(.line) {
  cursor: pointer;
}

.table :deep(.line:focus-visible) {
  outline-offset: -2px;
}

.table :deep(.trace) {
  padding: 8px 12px;
}

:deep(.nowrap) {
  white-space: nowrap;
}

.narrow :deep(.nowrap) {
  white-space: normal;
}

.narrow :deep(.line button) {
  white-space: normal;
  overflow-wrap: anywhere;
  text-align: left;
}

:deep(.text) {
  overflow-wrap: anywhere;
}

:deep(.yes) {
  color: var(--mint);
}

:deep(.no) {
  color: var(--berry);
}

:deep(.plain) {
  color: var(--soft);
}
</style>
