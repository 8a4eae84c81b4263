<script setup lang="ts">
/** The kinds of output: those that are off by name; all of them with their switches in a list. */
import { ElPopover, ElSwitch } from 'element-plus'
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { MARKS, outputOf, type Output } from '@/parts/marks'
import OutputMark from '@/parts/OutputMark.vue'

const book = useBook()

interface Row {
  output: Output
  name: string
  on: boolean
  cues: string[]
}

/** Those used by a cue, and by which cues. */
const rows = computed<Row[]>(() =>
  (Object.keys(MARKS) as Output[]).flatMap((output) => {
    const cues = (book.book?.cues ?? []).filter((cue) => cue.beats.some((b) => outputOf(b.kind) === output))
    const on = book.book?.house.switches[output] ?? true
    return cues.length || !on
      ? [{ output, name: MARKS[output].name, on, cues: cues.map((cue) => cue.name) }]
      : []
  }),
)
const off = computed(() => rows.value.filter((row) => !row.on))
const many = (count: number): string => `${count} ${count === 1 ? 'cue' : 'cues'}`

function set(output: string, on: boolean): void {
  const switches = { ...book.book?.house.switches, [output]: on }
  void attempt(() => book.putHouse({ switches }))
}
</script>

<template>
  <div class="outputs">
    <ElPopover
      :persistent="false"
      role="dialog"
      aria-label="Outputs"
      trigger="click"
      :width="420"
      placement="top-start"
    >
      <template #reference>
        <button class="btn" data-test="outputs">
          Outputs<span class="soft small">{{ off.length ? `${off.length} off` : 'all on' }}</span>
        </button>
      </template>
      <ul aria-label="Kinds of output">
        <li v-for="row in rows" :key="row.output" class="row">
          <OutputMark :of="row.output" :size="20" />
          <strong class="name">{{ row.name }}</strong>
          <span class="soft small grow cut-off" :title="row.cues.join(', ')">{{
            many(row.cues.length)
          }}</span>
          <ElSwitch
            :model-value="row.on"
            size="small"
            :aria-label="`${row.name} goes out`"
            @update:model-value="set(row.output, Boolean($event))"
          />
        </li>
      </ul>
      <p v-if="!rows.length" class="soft none">No outputs yet.</p>
    </ElPopover>
    <button
      v-for="row in off"
      :key="row.output"
      class="chip"
      :title="`Switch it on again. It touches ${row.cues.join(', ') || 'no cue'}.`"
      @click="set(row.output, true)"
    >
      {{ row.name }} off, {{ many(row.cues.length) }}
    </button>
  </div>
</template>

<style scoped>
.outputs {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  max-width: 260px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}

.name {
  width: 110px;
}

.none {
  margin: 0;
}

.chip {
  padding: 2px 10px;
  border: 1px solid var(--berry);
  border-radius: 12px;
  background: none;
  color: var(--berry);
  font-weight: 700;
  cursor: pointer;
}
</style>
