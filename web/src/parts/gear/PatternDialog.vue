<script setup lang="ts">
/** Haptic patterns: chosen, named, painted, exported and imported as CSV. */
import { ElDialog, ElOption, ElPopconfirm } from 'element-plus'
import { computed, ref } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'
import { freeId } from '@/logic/ids'
import type { Pattern } from '@/logic/patterns'
import DurationField from '@/parts/DurationField.vue'
import PickField from '@/parts/PickField.vue'
import PatternPainter from './PatternPainter.vue'

const props = defineProps<{ patternId: string | null }>()
const emit = defineEmits<{ chosen: [id: string]; close: [] }>()
const book = useBook()
const patterns = computed(() => book.book?.patterns ?? [])

function fresh(): Pattern {
  const id = freeId('pattern', new Set(patterns.value.map((p) => p.id)))
  return {
    id,
    name: 'New pattern',
    length_s: 1,
    places: {},
    frames: [{ at_s: 0, levels: {}, curve: 'line' }],
  }
}

function copyOf(id: string | null): Pattern {
  const there = patterns.value.find((p) => p.id === id)
  return there ? (JSON.parse(JSON.stringify(there)) as Pattern) : fresh()
}

const pattern = ref<Pattern>(copyOf(props.patternId))
const picker = ref<HTMLInputElement>()
const isThere = computed(() => patterns.value.some((p) => p.id === pattern.value.id))

function choose(id: string): void {
  pattern.value = copyOf(id || null)
}

async function save(): Promise<void> {
  await attempt(async () => {
    await book.put('patterns', pattern.value as never)
    emit('chosen', pattern.value.id)
    say(`${pattern.value.name} saved.`, 'fine')
  })
}

async function remove(): Promise<void> {
  await attempt(() => book.remove('patterns', pattern.value.id))
  choose('')
}

async function read(): Promise<void> {
  const file = picker.value?.files?.[0]
  if (!file) return
  const before = new Set(patterns.value.map((p) => p.id))
  await attempt(async () => {
    const body = { name: file.name.replace(/\.csv$/i, ''), text: await file.text() }
    await book.edit(() => got(api.POST('/api/patterns', { body })))
    const made = patterns.value.find((p) => !before.has(p.id))
    if (made) choose(made.id)
  })
  if (picker.value) picker.value.value = ''
}
</script>

<template>
  <ElDialog
    :model-value="true"
    title="Patterns"
    width="900"
    top="6vh"
    append-to="#over"
    @close="emit('close')"
  >
    <div class="dialog">
      <div class="row">
        <PickField
          class="which"
          aria-label="Pattern"
          :model-value="isThere ? pattern.id : ''"
          @update:model-value="choose($event)"
        >
          <ElOption value="" label="new pattern" />
          <ElOption v-for="one in patterns" :key="one.id" :value="one.id" :label="one.name" />
        </PickField>
        <input v-model="pattern.name" class="well grow" aria-label="Pattern name" />
        <label class="row small"
          >lasts<DurationField
            :model-value="pattern.length_s"
            :least="0.05"
            @update:model-value="pattern.length_s = $event"
        /></label>
      </div>
      <PatternPainter :key="pattern.id" v-model="pattern" />
      <div class="row">
        <button class="btn tiny" @click="picker?.click()">Import CSV…</button>
        <input ref="picker" type="file" accept=".csv,text/csv" hidden @change="read" />
        <a v-if="isThere" class="btn tiny" :href="`/api/patterns/${pattern.id}.csv`" download>Export CSV</a>
        <ElPopconfirm
          :persistent="false"
          v-if="isThere"
          title="Delete this pattern?"
          confirm-button-text="Delete"
          cancel-button-text="Cancel"
          @confirm="remove"
        >
          <template #reference><button class="btn tiny danger">Delete</button></template>
        </ElPopconfirm>
        <span class="grow"></span>
        <button class="btn main" data-test="keep-pattern" @click="save">Keep</button>
      </div>
    </div>
  </ElDialog>
</template>

<style scoped>
.dialog {
  display: grid;
  gap: 12px;
}

.which {
  width: 180px;
}
</style>
