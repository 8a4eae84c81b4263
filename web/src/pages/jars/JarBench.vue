<script setup lang="ts">
/** One jar: its layers, its entries, its odds, and a thousand draws to look at. */
import { ElOption, ElPopconfirm } from 'element-plus'
import { ref, watch } from 'vue'
import { api, got, type Book, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'
import DropZone from '@/parts/DropZone.vue'
import JarEntries from './JarEntries.vue'
import JarOdds from './JarOdds.vue'
import JarPicture from './JarPicture.vue'
import PickField from '@/parts/PickField.vue'

type Jar = Book['jars'][number]

const props = defineProps<{ jar: Jar }>()
const book = useBook()
const odds = ref<Schemas['Odds'] | null>(null)
const drawn = ref<Schemas['Drawn'][]>([])
const busy = ref(false)
const paste = ref('')
const RULES = {
  any: 'any: each draw is independent',
  no_repeat: 'no repeat: never the same twice in a row',
  bag: 'bag: each once, then reshuffled',
}
const FORMS = [
  { form: 'm3u8', name: 'M3U8' },
  { form: 'csv', name: 'CSV' },
  { form: 'list', name: 'List' },
] as const

watch(
  () => [props.jar, book.version],
  () => {
    drawn.value = []
    got(api.GET('/api/jars/{jar_id}/odds', { params: { path: { jar_id: props.jar.id } } })).then(
      (o) => (odds.value = o),
      () => {},
    )
  },
  { immediate: true, deep: true },
)

function put(fields: Partial<Jar>): Promise<unknown> {
  return attempt(() => book.put('jars', { ...props.jar, ...fields }))
}

async function addFiles(files: File[]): Promise<void> {
  busy.value = true
  await attempt(async () => {
    const ids = await book.addFiles(files)
    const there = new Set(props.jar.entries.map((entry) => entry.value))
    const fresh = ids.filter((id) => !there.has(id)).map((value) => ({ value, weight: 1, on: true }))
    await book.put('jars', { ...props.jar, entries: [...props.jar.entries, ...fresh] })
  })
  busy.value = false
}

async function take(form: 'm3u8' | 'csv' | 'list' | 'gpl', text: string): Promise<void> {
  await attempt(async () => {
    const params = { path: { jar_id: props.jar.id } }
    const done = await got(
      api.POST('/api/jars/{jar_id}/file', { params, body: { form, text, version: null } }),
    )
    await book.load()
    paste.value = ''
    if (done.missing.length) say(`${done.taken} taken. Not there: ${done.missing.join(', ')}`, 'wrong')
    else say(`${done.taken} taken.`, 'fine')
  })
}

async function fromFile(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  const ending = file.name.split('.').pop()?.toLowerCase() ?? ''
  const form =
    ending === 'csv' ? 'csv' : ending === 'gpl' ? 'gpl' : ending.startsWith('m3u') ? 'm3u8' : 'list'
  await take(form, await file.text())
  input.value = ''
}

async function drawMany(): Promise<void> {
  await attempt(async () => {
    drawn.value = await got(
      api.POST('/api/jars/{jar_id}/draw', {
        params: { path: { jar_id: props.jar.id } },
        body: { count: 1000 },
      }),
    )
  })
}
</script>

<template>
  <div class="bench">
    <section class="card left">
      <input
        class="name"
        :value="jar.name || jar.id"
        aria-label="Jar name"
        @change="put({ name: ($event.target as HTMLInputElement).value })"
      />
      <JarPicture
        :entries="jar.entries"
        @weigh="(w) => put({ entries: jar.entries.map((e, i) => ({ ...e, weight: w[i] ?? e.weight })) })"
      />
      <label class="field wide">
        Draw rule
        <PickField :model-value="jar.rule" data-test="rule" @update:model-value="put({ rule: $event })">
          <ElOption v-for="(name, id) in RULES" :key="id" :value="id" :label="name" />
        </PickField>
      </label>
    </section>
    <section class="card">
      <div class="card-title">
        <h2>Contents</h2>
        <span class="soft">{{ jar.entries.length }}</span>
      </div>
      <JarEntries :jar="jar" :odds="odds" @put="put" />
      <DropZone v-if="jar.kind === 'media'" :busy="busy" label="Drop files into the jar" @files="addFiles" />
      <form class="paste" @submit.prevent="take('list', paste)">
        <textarea
          v-model="paste"
          class="well"
          rows="2"
          :placeholder="
            jar.kind === 'media' ? 'Paste paths or names, one per line' : 'Paste a list, one per line'
          "
          aria-label="Paste a list"
          data-test="paste"
        ></textarea>
        <button class="btn tiny" :disabled="!paste.trim()">Fill from the list</button>
      </form>
      <div class="row wrap small">
        <label class="btn tiny"
          >Fill from a file<input type="file" hidden accept=".m3u8,.m3u,.csv,.txt,.gpl" @change="fromFile"
        /></label>
        <a
          v-for="f in FORMS"
          :key="f.form"
          class="btn tiny"
          :href="`/api/jars/${jar.id}/file?form=${f.form}`"
          download
          >{{ f.name }}</a
        >
        <a v-if="jar.kind === 'colour'" class="btn tiny" :href="`/api/jars/${jar.id}/file?form=gpl`" download
          >Palette</a
        >
        <span class="grow"></span>
        <ElPopconfirm
          :persistent="false"
          title="Remove this jar? Undo brings it back."
          confirm-button-text="Remove"
          cancel-button-text="Cancel"
          width="240"
          @confirm="attempt(() => book.remove('jars', jar.id))"
        >
          <template #reference><button class="btn tiny danger">Remove</button></template>
        </ElPopconfirm>
      </div>
      <label v-if="jar.kind === 'media'" class="field">
        Follow a folder
        <input
          class="well"
          :value="jar.folder ?? ''"
          placeholder="/home/me/posters"
          @change="
            put({
              folder:
                ($event.target as HTMLInputElement).value.trim().replace(/^[&quot;']|[&quot;']$/g, '') ||
                null,
            })
          "
        />
      </label>
    </section>
    <JarOdds v-if="odds" :odds="odds" :drawn="drawn" :rule="jar.rule" @draw="drawMany" />
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: 290px minmax(0, 1fr) 380px;
  gap: 12px;
  align-items: start;
}

.card {
  display: grid;
  gap: 10px;
}

.left {
  justify-items: center;
}

.name {
  font: 680 22px var(--display);
  background: none;
  border: 0;
  text-align: center;
  width: 100%;
}

.wide {
  width: 100%;
}

.paste {
  display: grid;
  gap: 6px;
  justify-items: start;
}

.wrap {
  flex-wrap: wrap;
}

@media (max-width: 1120px) {
  .bench {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
