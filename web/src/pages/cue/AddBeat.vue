<script setup lang="ts">
import { ElPopover } from 'element-plus'
import { computed, ref } from 'vue'
import type { Media } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { MARKS } from '@/parts/marks'
import DropZone from '@/parts/DropZone.vue'
import OutputMark from '@/parts/OutputMark.vue'
import { useDraft } from './draft'

const book = useBook()
const draft = useDraft()
const open = ref<'picture' | 'clip' | 'sound' | null>(null)
const busy = ref(false)
const KINDS = ['picture', 'clip', 'sound'] as const

const byKind = computed(() => ({
  picture: book.media.filter((m) => m.kind === 'picture'),
  clip: book.media.filter((m) => m.kind === 'clip'),
  sound: book.media.filter((m) => m.kind === 'sound'),
}))

function add(entry: Media): void {
  const fields: Record<string, unknown> = { media: { file: entry.id }, length: 'natural' }
  if (entry.kind !== 'sound') fields.place = { x: 0.3, y: 0.3, w: 0.4, h: 0.4 }
  draft.addBeat(entry.kind, fields)
  open.value = null
}

async function addFiles(files: File[]): Promise<void> {
  busy.value = true
  await attempt(async () => {
    for (const id of await book.addFiles(files)) {
      const entry = book.mediaById.get(id)
      if (entry) add(entry)
    }
  })
  busy.value = false
}

function addCaption(): void {
  draft.addBeat('caption', {
    text: '{{viewer}}',
    length: { s: 5 },
    place: { x: 0.2, y: 0.78, w: 0.6, h: 0.14 },
    size: 0.06,
  })
}

function addBurst(): void {
  draft.addBeat('burst', {
    length: { s: 4 },
    place: { x: 0, y: 0, w: 1, h: 1 },
    shape: 'ticket',
    count: 80,
    media: null,
  })
}

function addChance(): void {
  const outcomes = [
    { id: 'alike', name: 'Three alike', when: 'all_equal', weight: 1 },
    { id: 'pair', name: 'A pair', when: 'pair', weight: 1 },
    { id: 'nothing', name: 'Nothing', when: 'any', weight: 1 },
  ]
  draft.addBeat('chance', {
    dice: { count: 3, sides: 6 },
    outcomes,
    spin_s: 2.5,
    place: { x: 0.3, y: 0.25, w: 0.4, h: 0.4 },
  })
}
</script>

<template>
  <div class="row">
    <ElPopover v-for="kind in KINDS" :key="kind" :visible="open === kind" width="420" placement="top-start">
      <template #reference>
        <button class="btn tiny" :data-test="`add-${kind}`" @click="open = open === kind ? null : kind">
          <OutputMark :of="kind" :size="16" />{{ MARKS[kind].name }}
        </button>
      </template>
      <div class="pick">
        <div class="wall">
          <button
            v-for="entry in byKind[kind]"
            :key="entry.id"
            class="tile"
            :title="entry.name"
            @click="add(entry)"
          >
            <img v-if="entry.poster" :src="entry.poster" alt="" /><OutputMark v-else :of="kind" :size="26" />
            <span class="small cut-off">{{ entry.name }}</span>
          </button>
        </div>
        <p v-if="!byKind[kind].length" class="soft small">None in the library yet.</p>
        <DropZone :busy="busy" @files="addFiles" />
        <button class="btn tiny" @click="open = null">Close</button>
      </div>
    </ElPopover>
    <button class="btn tiny" data-test="add-caption" @click="addCaption">
      <OutputMark of="caption" :size="16" />Caption
    </button>
    <button class="btn tiny" data-test="add-burst" @click="addBurst">
      <OutputMark of="picture" :size="16" />Burst
    </button>
    <button class="btn tiny" data-test="add-chance" @click="addChance">
      <OutputMark of="chance" :size="16" />Chance
    </button>
    <DropZone class="drop" :busy="busy" label="or drop a file" @files="addFiles" />
  </div>
</template>

<style scoped>
.drop {
  padding: 0 4px;
  font-size: 13px;
}

.pick {
  display: grid;
  gap: 8px;
}

.wall {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 6px;
  max-height: 300px;
  overflow: auto;
}

.tile {
  display: grid;
  justify-items: center;
  gap: 2px;
  padding: 6px;
  background: var(--ground);
  border: 1px solid var(--line);
  border-radius: 8px;
  cursor: pointer;
}

.tile img {
  width: 100%;
  height: 56px;
  object-fit: contain;
}

.tile span {
  max-width: 100%;
}
</style>
