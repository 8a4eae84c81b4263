<script setup lang="ts">
import { ElDrawer, ElPopconfirm } from 'element-plus'
import { computed } from 'vue'
import { api, got, type Media } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { sayDuration } from '@/logic/duration'
import { saySize } from '@/logic/words'

const props = defineProps<{ entry: Media | null }>()
const emit = defineEmits<{ close: [] }>()
const book = useBook()

const facts = computed<[string, string][]>(() => {
  const m = props.entry
  if (!m || m.missing) return []
  const rows: [string, string][] = [
    ['Form', m.format.toUpperCase()],
    ['Size', saySize(m.size)],
  ]
  if (m.width) rows.push(['Measures', `${m.width} × ${m.height}`])
  if (m.length_s) rows.push(['Length', sayDuration(m.length_s)])
  if (m.kind === 'picture' && m.length_s) {
    rows.push(
      ['Repeats', m.loops === 0 ? 'for ever' : `${m.loops} times`],
      ['3 loops', sayDuration(3 * m.length_s)],
    )
  }
  if (m.kind === 'clip') rows.push(['Sound', m.has_sound ? 'yes' : 'none'])
  return rows
})

async function rename(name: string): Promise<void> {
  const found = book.book?.media.find((m) => m.id === props.entry?.id)
  if (found && name.trim()) await attempt(() => book.put('media', { ...found, name: name.trim() }))
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
  <ElDrawer :model-value="entry !== null" :title="entry?.name ?? ''" size="420px" @close="emit('close')">
    <div v-if="entry" class="drawer">
      <p v-if="entry.missing" class="wrong">
        The file is missing. Drop it in again and it is found by its content.
      </p>
      <img v-if="entry.kind === 'picture' && entry.url" :src="entry.url" alt="" class="show" />
      <video v-else-if="entry.kind === 'clip' && entry.url" :src="entry.url" controls class="show"></video>
      <audio v-else-if="entry.url" :src="entry.url" controls class="wide"></audio>
      <label class="field"
        >Name<input
          class="well"
          :value="entry.name"
          @change="rename(($event.target as HTMLInputElement).value)"
      /></label>
      <dl>
        <template v-for="[name, value] in facts" :key="name"
          ><dt class="soft">{{ name }}</dt>
          <dd>{{ value }}</dd></template
        >
        <dt class="soft">Used by</dt>
        <dd>{{ entry.used_by.join(', ') || 'nothing yet' }}</dd>
      </dl>
      <p v-for="note in entry.notes" :key="note" class="note">{{ note }}</p>
      <ElPopconfirm
        title="Take it out of the library? Undo brings it back."
        confirm-button-text="Take out"
        cancel-button-text="Keep"
        width="260"
        @confirm="remove"
      >
        <template #reference><button class="btn danger">Take out</button></template>
      </ElPopconfirm>
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
