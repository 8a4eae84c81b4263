<script setup lang="ts">
/** Words that are never read: several lists, each on or off, refusing or replacing; and a box to test evasions. */
import { ElOption, ElSwitch } from 'element-plus'
import { ref, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'
import { freeId } from '@/logic/ids'
import PickField from '@/parts/PickField.vue'

type WordList = Schemas['WordList']
const book = useBook()
const tried = ref('')
const found = ref<Schemas['FoundOut'][] | null>(null)
const picker = ref<HTMLInputElement>()
const into = ref('')

watch([tried, () => book.version], async () => {
  const text = tried.value
  const answer = text ? await got(api.POST('/api/words/check', { body: { text } })).catch(() => null) : null
  if (text === tried.value) found.value = answer
})

function set(list: WordList, fields: Partial<WordList>): Promise<unknown> {
  return attempt(() => book.put('words', { ...list, ...fields }))
}

/** One entry a line; `*grot*` matches anywhere in a word. */
function lines(list: WordList): string {
  return list.entries.map((entry) => (entry.anywhere ? `*${entry.text}*` : entry.text)).join('\n')
}

function setLines(list: WordList, text: string): void {
  const entries = text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line) => {
      const anywhere = line.length > 2 && line.startsWith('*') && line.endsWith('*')
      return { text: anywhere ? line.slice(1, -1) : line, anywhere }
    })
  void set(list, { entries })
}

async function add(): Promise<void> {
  const id = freeId('words', new Set(book.book?.words.map((list) => list.id)))
  await attempt(() => book.put('words', { id, name: 'New list' }))
}

async function take(): Promise<void> {
  const file = picker.value?.files?.[0]
  const list_id = into.value
  if (!file) return
  const body = { text: await file.text(), how: 'add' as const }
  await attempt(async () => {
    await book.edit(() => got(api.POST('/api/words/{list_id}/file', { params: { path: { list_id } }, body })))
    say('Words imported.', 'fine')
  })
  if (picker.value) picker.value.value = ''
}

function pick(list_id: string): void {
  into.value = list_id
  picker.value?.click()
}
</script>

<template>
  <section class="card words">
    <div class="row">
      <h2 class="grow">Word lists</h2>
      <button class="btn tiny" @click="add">New list</button>
    </div>
    <label class="field"
      >Test the lists<input v-model="tried" class="well" data-test="evasion" placeholder="g r 0 t b a g"
    /></label>
    <p v-if="found" class="small none" data-test="evasion-found">
      <span v-for="(hit, i) in found" :key="i" class="wrong"
        >“{{ hit.written }}” matches “{{ hit.entry }}” in {{ hit.words }}.
      </span>
      <span v-if="!found.length" class="fine">No blocked words found.</span>
    </p>
    <div v-for="list in book.book?.words ?? []" :key="list.id" class="list">
      <div class="row">
        <input
          class="name"
          :value="list.name"
          aria-label="List name"
          @change="set(list, { name: ($event.target as HTMLInputElement).value.trim() || list.name })"
        />
        <span class="grow"></span>
        <a class="small" :href="`/api/words/${list.id}/file`" download>Export</a>
        <button class="btn tiny" @click="pick(list.id)">Import</button>
        <button class="btn tiny danger" @click="attempt(() => book.remove('words', list.id))">Remove</button>
        <ElSwitch
          :model-value="list.on"
          :aria-label="`${list.name} on`"
          @update:model-value="set(list, { on: Boolean($event) })"
        />
      </div>
      <textarea
        class="well"
        rows="3"
        :value="lines(list)"
        placeholder="one word per line; *word* also matches inside other words"
        aria-label="Words, one per line"
        @change="setLines(list, ($event.target as HTMLTextAreaElement).value)"
      ></textarea>
      <label class="row small soft">
        Messages with one of these words
        <PickField
          class="slim"
          :model-value="list.replace === null ? 'away' : 'instead'"
          @update:model-value="set(list, { replace: $event === 'away' ? null : 'teapot' })"
        >
          <ElOption value="away" label="are refused" />
          <ElOption value="instead" label="have it replaced by" />
        </PickField>
        <input
          v-if="list.replace !== null"
          class="well slim"
          :value="list.replace"
          aria-label="Replacement"
          @change="set(list, { replace: ($event.target as HTMLInputElement).value })"
        />
      </label>
    </div>
    <p v-if="!book.book?.words.length" class="soft small">No lists yet, so every message is read.</p>
    <input ref="picker" type="file" accept=".txt,text/plain" hidden @change="take" />
  </section>
</template>

<style scoped>
.words {
  display: grid;
  gap: 10px;
}

.list {
  display: grid;
  gap: 6px;
  border-top: 1px solid var(--line);
  padding-top: 8px;
}

.name {
  font: 640 16px var(--display);
  background: none;
  border: 0;
  width: 180px;
}

.slim {
  width: 140px;
  min-height: 30px;
}

.none {
  margin: 0;
}

.wrong {
  color: var(--berry);
}

.fine {
  color: var(--mint);
}
</style>
