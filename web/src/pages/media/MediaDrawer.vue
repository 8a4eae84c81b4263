<script setup lang="ts">
import { ElDrawer, ElPopconfirm } from 'element-plus'
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import { api, got, upload, type Media, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'
import { sayDuration } from '@/logic/duration'
import { saySize } from '@/logic/words'
import JobList from '@/parts/JobList.vue'

const TrimEditor = defineAsyncComponent(() => import('@/parts/TrimEditor.vue'))

const props = defineProps<{ entry: Media | null }>()
const emit = defineEmits<{ close: [] }>()
const book = useBook()

const PLAYS = {
  everywhere: 'in every browser',
  mostly: 'in most browsers; some are built without its decoder',
  nowhere: 'in no browser',
}
const replacing = ref<HTMLInputElement>()
const busy = ref(false)
const uses = ref<Schemas['TrimUse'][]>([])

function signed(value: number): string {
  return value.toFixed(1).replace('-', '−')
}

const facts = computed<[string, string][]>(() => {
  const m = props.entry
  if (!m || m.missing) return []
  const rows: [string, string][] = [
    [
      'Format',
      [m.format.toUpperCase(), m.codecs.join(' and '), m.alpha ? 'see-through' : '']
        .filter(Boolean)
        .join(', '),
    ],
    ['Size', saySize(m.size)],
    ['Plays', PLAYS[m.plays]],
  ]
  if (m.width) rows.push(['Measures', `${m.width} × ${m.height}`])
  if (m.length_s) rows.push(['Length', sayDuration(m.length_s)])
  if (m.kind === 'picture' && m.length_s) {
    rows.push(
      ['Repeats', m.loops === 0 ? 'forever' : `${m.loops} times`],
      ['Loops', `3 loops = ${sayDuration(3 * m.length_s)}`],
    )
  }
  if (m.kind === 'clip') rows.push(['Sound', m.has_sound ? 'yes' : 'none'])
  if (m.lufs !== null && m.lufs !== undefined) {
    const after = Math.round((m.lufs + m.gain_db) * 10) / 10
    const way = m.gain_db === 0 ? 'not levelled' : `${m.gain_db > 0 ? '+' : ''}${signed(m.gain_db)} dB`
    rows.push(['Loudness', `${signed(m.lufs)} LUFS, peak ${signed(m.peak_dbtp ?? 0)} dBTP`])
    rows.push(['Levelled', `${signed(after)} LUFS (${way})`])
  }
  return rows
})
const flashes = computed(() =>
  (props.entry?.flashes ?? [])
    .map((f) => `${sayDuration(f.from_s)} to ${sayDuration(f.to_s)} (${f.flashes} a second)`)
    .join(', '),
)

async function trimming(trim: { from_s: number; to_s: number | null }): Promise<void> {
  const media_id = props.entry?.id
  if (!media_id) return
  const params = { path: { media_id } }
  uses.value = await got(api.POST('/api/media/{media_id}/trim-use', { params, body: trim })).catch(() => [])
}
watch(
  () => props.entry?.id,
  (id) => {
    uses.value = []
    if (id && props.entry?.length_s) void trimming(props.entry.trim ?? { from_s: 0, to_s: null })
  },
  { immediate: true },
)

async function replaceWith(file: File | undefined): Promise<void> {
  const media_id = props.entry?.id
  if (!file || !media_id) return
  busy.value = true
  await attempt(async () => {
    const params = { path: { media_id } }
    await book.edit(() => got(api.POST('/api/media/{media_id}/replace', { params, ...upload(file) })))
    say('Replaced everywhere.', 'fine')
  })
  busy.value = false
}

async function convert(): Promise<void> {
  const media_id = props.entry?.id
  if (!media_id) return
  busy.value = true
  await attempt(() =>
    book.edit(() => got(api.POST('/api/media/{media_id}/convert', { params: { path: { media_id } } }))),
  )
  busy.value = false
}

async function rename(name: string): Promise<void> {
  const found = book.book?.media.find((m) => m.id === props.entry?.id)
  if (found && name.trim()) await attempt(() => book.put('media', { ...found, name: name.trim() }))
}

const inBook = computed(() => book.book?.media.find((m) => m.id === props.entry?.id))
/** What is exported with the file. */
const TERMS = [
  ['licence', 'Licence', 'e.g. CC BY 4.0'],
  ['credit', 'Credit', 'author to name'],
] as const

async function term(key: 'licence' | 'credit', value: string): Promise<void> {
  if (inBook.value) await attempt(() => book.put('media', { ...inBook.value!, [key]: value.trim() }))
}

async function remove(): Promise<void> {
  const media_id = props.entry?.id ?? ''
  await attempt(async () => {
    await book.edit(async () => {
      const done = await got(api.DELETE('/api/media/{media_id}', { params: { path: { media_id } } }))
      return { version: done.version ?? 0 }
    })
    emit('close')
  })
}
</script>

<template>
  <ElDrawer
    append-to="#over"
    :model-value="entry !== null"
    :title="entry?.name ?? ''"
    size="420px"
    @close="emit('close')"
  >
    <div v-if="entry" class="drawer">
      <p v-if="entry.missing" class="wrong">
        The file is missing. Drop it here again; Cue Jar recognises it by its content.
      </p>
      <img v-if="entry.kind === 'picture' && entry.url" :src="entry.url" alt="" class="show" />
      <video v-else-if="entry.kind === 'clip' && entry.url" :src="entry.url" controls class="show"></video>
      <label class="field"
        >Name<input
          class="well"
          :value="entry.name"
          @change="rename(($event.target as HTMLInputElement).value)"
      /></label>
      <label v-for="[key, name, hint] in TERMS" :key="key" class="field"
        >{{ name
        }}<input
          class="well"
          :value="inBook?.[key] ?? ''"
          :placeholder="hint"
          :maxlength="key === 'credit' ? 400 : 200"
          @change="term(key, ($event.target as HTMLInputElement).value)"
      /></label>
      <dl>
        <template v-for="[name, value] in facts" :key="name"
          ><dt class="soft">{{ name }}</dt>
          <dd>{{ value }}</dd></template
        >
        <dt v-if="entry.kind !== 'sound'" class="soft">Flashes</dt>
        <dd v-if="flashes" class="wrong">
          Unsafe flashing: {{ flashes }}. Trim that part, or use another file.
        </dd>
        <dd v-else-if="entry.kind !== 'sound'">as little as is safe</dd>
        <dt class="soft">Used by</dt>
        <dd>{{ entry.used_by.join(', ') || 'no cues' }}</dd>
      </dl>
      <section v-if="entry.kind !== 'picture' && entry.length_s" class="wide">
        <h2>Trim</h2>
        <TrimEditor :key="entry.id" :entry="entry" @trimming="trimming" />
        <p v-for="use in uses.filter((u) => u.before_s !== u.after_s)" :key="use.cue" class="small note">
          {{ use.cue }}: {{ use.before_s === null ? 'open' : sayDuration(use.before_s) }} becomes
          {{ use.after_s === null ? 'open' : sayDuration(use.after_s) }}
        </p>
      </section>
      <JobList />
      <p v-for="note in entry.notes" :key="note" class="note">{{ note }}</p>
      <div class="row">
        <button class="btn" :disabled="busy" @click="replacing?.click()">Replace everywhere</button>
        <button
          v-if="entry.kind !== 'picture' && !entry.missing"
          class="btn"
          :class="{ main: entry.plays !== 'everywhere' }"
          :disabled="busy"
          :title="entry.kind === 'clip' ? 'To WebM with VP9 and Opus' : 'To Opus'"
          data-test="convert"
          @click="convert"
        >
          Convert
        </button>
        <input
          ref="replacing"
          type="file"
          hidden
          @change="(replaceWith(replacing?.files?.[0]), replacing && (replacing.value = ''))"
        />
        <ElPopconfirm
          :persistent="false"
          title="Remove this file from the library? Undo brings it back."
          confirm-button-text="Remove"
          cancel-button-text="Cancel"
          width="260"
          @confirm="remove"
        >
          <template #reference><button class="btn danger">Remove</button></template>
        </ElPopconfirm>
      </div>
    </div>
  </ElDrawer>
</template>

<style scoped>
.drawer {
  display: grid;
  gap: 14px;
  justify-items: start;
}

.show {
  width: 100%;
  max-height: 260px;
  object-fit: contain;
  background: var(--ground);
  border-radius: 6px;
}

.wide,
.field {
  width: 100%;
}

dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 4px 16px;
  margin: 0;
}

section {
  display: grid;
  gap: 10px;
}

dd {
  margin: 0;
}

.wrong {
  color: var(--berry);
}

.note {
  margin: 0;
  color: var(--marmalade);
}
</style>
