<script setup lang="ts">
/** A chart with the table behind it: for those who read, and as CSV. */
import { computed, ref } from 'vue'

const props = defineProps<{ title: string; head: string[]; rows: (string | number)[][]; file: string }>()
const asTable = ref(false)
const quoted = (cell: string | number): string => `"${String(cell).replaceAll('"', '""')}"`
const csv = computed(
  () =>
    `data:text/csv;charset=utf-8,${encodeURIComponent([props.head, ...props.rows].map((row) => row.map(quoted).join(',')).join('\r\n'))}`,
)
</script>

<template>
  <section class="chart" :aria-label="title">
    <div class="row">
      <h3>{{ title }}</h3>
      <span class="grow"></span>
      <button class="btn tiny" :aria-pressed="asTable" @click="asTable = !asTable">
        {{ asTable ? 'Chart' : 'Table' }}
      </button>
      <a class="btn tiny" :href="csv" :download="`${file}.csv`">CSV</a>
    </div>
    <div v-if="asTable" class="scroll">
      <table>
        <thead>
          <tr>
            <th v-for="cell in head" :key="cell">{{ cell }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, i) in rows" :key="i">
            <td v-for="(cell, n) in row" :key="n">{{ cell }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-show="!asTable"><slot /></div>
  </section>
</template>

<style scoped>
.chart {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
  min-width: 0;
}

h3 {
  font-size: 15px;
}

.scroll {
  max-height: 260px;
  overflow: auto;
}

table {
  width: 100%;
  border-collapse: collapse;
  font-size: 14px;
}

th,
td {
  padding: 2px 10px 2px 0;
  border-bottom: 1px solid var(--line);
  text-align: left;
}
</style>
