<script setup lang="ts">
/** Import rewards: what would be new, changed or refused, before anything changes. */
import { ElDialog } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'
import DropZone from '@/parts/DropZone.vue'

const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ taken: [] }>()
const book = useBook()
const text = ref('')
const rows = ref<Schemas['RowOut'][]>([])
const WORDS = { new: 'new', changed: 'changed', same: 'unchanged', refused: 'refused' } as const
const counts = computed(() =>
  (Object.keys(WORDS) as (keyof typeof WORDS)[])
    .map((what) => ({ what, count: rows.value.filter((row) => row.what === what).length }))
    .filter((one) => one.count),
)
const useful = computed(() => rows.value.filter((row) => row.what === 'new' || row.what === 'changed').length)
watch(open, () => {
  text.value = ''
  rows.value = []
})

async function look(files: File[]): Promise<void> {
  const file = files[0]
  if (!file) return
  text.value = await file.text()
  rows.value = (await got(api.POST('/api/rewards/table/preview', { body: { text: text.value } }))).rows
}

async function take(): Promise<void> {
  await got(api.POST('/api/rewards/table', { body: { text: text.value } }))
  await book.load()
  emit('taken')
  open.value = false
  say(`${useful.value} rewards imported. Ctrl+Z undoes it.`, 'fine')
}
</script>

<template>
  <ElDialog append-to="#over" v-model="open" title="Import rewards" width="720">
    <DropZone
      class="zone"
      label="Drop a CSV file here, or choose one"
      accept=".csv,text/csv"
      @files="(f) => attempt(() => look(f))"
    />
    <p class="small soft">
      The first line names the columns: title, cost, text, prompt, on, review, colour, picture, crop, tag,
      max_per_stream, max_per_viewer, cooldown_s, set. Missing columns stay unchanged.
    </p>
    <p v-if="rows.length" class="counts" role="status">
      <span v-for="one in counts" :key="one.what" :class="one.what"
        >{{ one.count }} {{ WORDS[one.what] }}</span
      >
    </p>
    <ul v-if="rows.length" class="rows" tabindex="0" aria-label="Preview">
      <li v-for="row in rows" :key="row.line">
        <span class="soft small">line {{ row.line }}</span>
        <strong class="cut-off">{{ row.title || 'no title' }}</strong>
        <span :class="row.what">{{ WORDS[row.what] }}</span>
        <span class="small soft">{{ row.problem || row.changes.join('; ') }}</span>
      </li>
    </ul>
    <template #footer>
      <button class="btn main" :disabled="!useful" data-test="take-table" @click="attempt(take)">
        {{ useful ? `Import ${useful}` : 'Nothing to import' }}
      </button>
    </template>
  </ElDialog>
</template>

<style scoped>
.counts {
  display: flex;
  gap: 16px;
  font: 640 17px var(--display);
}

.rows {
  display: grid;
  gap: 4px;
  max-height: 320px;
  overflow: auto;
  margin: 0;
  padding: 0;
  list-style: none;
}

.rows li {
  display: grid;
  grid-template-columns: 60px minmax(120px, 1fr) 80px minmax(0, 2fr);
  gap: 10px;
}

.new,
.changed {
  color: var(--mint);
}

.refused {
  color: var(--berry);
}

.same {
  color: var(--soft);
}
</style>
