<script setup lang="ts">
import { ElPopover } from 'element-plus'
import { computed, ref } from 'vue'
import type { Media } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useGear } from '@/composables/useGear'
import { attempt } from '@/composables/useSay'
import { MARKS } from '@/parts/marks'
import DropZone from '@/parts/DropZone.vue'
import OutputMark from '@/parts/OutputMark.vue'
import { useDraft } from '../draft'

const book = useBook()
const gear = useGear()
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

const scenes = computed(() => Object.keys(gear.broadcast?.scenes ?? {}))

function addSpeech(): void {
  draft.addBeat('speech', { text: '{{text}}', length: 'natural', caption: true, mouth: false, duck: 0.4 })
  const cue = draft.cue.value
  if (cue && !cue.door.text)
    cue.door.text = {
      need: true,
      kind: 'any',
      min: null,
      max: 200,
      too_long: 'refuse',
      choices: [],
      range: null,
    }
}

function addScene(): void {
  draft.addBeat('scene', { scene: scenes.value[0] ?? 'Scene', length: { s: 5 } })
}

function addSource(): void {
  const scene = scenes.value.find((name) => gear.broadcast?.scenes[name]?.length) ?? 'Scene'
  draft.addBeat('source', {
    scene,
    source: gear.broadcast?.scenes[scene]?.[0] ?? 'Source',
    any_source: false,
    visible: true,
    length: { s: 5 },
  })
}

function addFilter(): void {
  const source = Object.keys(gear.broadcast?.filters ?? {})[0] ?? 'Source'
  const filter = Object.keys(gear.broadcast?.filters[source] ?? {})[0] ?? 'Filter'
  draft.addBeat('filter', { sources: [source], filter, setting: 'on', value: true, length: { s: 5 } })
}

const MORE: { kind: string; name: string; add: () => void }[] = [
  { kind: 'speech', name: 'Speech', add: addSpeech },
  { kind: 'caption', name: 'Caption', add: addCaption },
  { kind: 'burst', name: 'Burst', add: addBurst },
  { kind: 'chance', name: 'Chance', add: addChance },
  { kind: 'scene', name: 'Scene', add: addScene },
  { kind: 'source', name: 'Source', add: addSource },
  { kind: 'filter', name: 'Filter', add: addFilter },
]

/** Beats that act on other gear, or outside; opened by one button, as there are many. */
const OUTSIDE = computed(() => {
  const names = (kind: string, what: string): string => gear.catalogue[kind]?.names[what]?.[0] ?? ''
  const hooks = (book.book?.gear ?? []).filter((g) => g.kind === 'hook')
  const reward = book.book?.rewards[0]?.id
  const cue = book.book?.cues.find((c) => c.id !== draft.cue.value?.id)?.id
  const five = { length: { s: 5 } }
  return [
    { kind: 'light', name: 'Lights', fields: { fixtures: 'all', colour: '#c0392b', ...five } },
    { kind: 'avatar', name: 'Avatar', fields: { outfit: names('avatar', 'outfit') || 'Outfit', ...five } },
    { kind: 'throw', name: 'Throw', fields: { media: null, count: 5, length: 'natural', ...WHOLE } },
    { kind: 'voice', name: 'Voice box', fields: { preset: names('voice', 'preset') || 'Preset', ...five } },
    {
      kind: 'haptics',
      name: 'Haptics',
      fields: { pattern: book.book?.patterns[0]?.id ?? 'Pattern', strength: 1, length: 'natural' },
    },
    { kind: 'keys', name: 'Latched keys', fields: { combo: 'F8', ...five } },
    { kind: 'tap', name: 'Key tap', fields: { combo: 'F8' } },
    {
      kind: 'hook',
      name: 'Hook',
      fields: { hook: hooks[0]?.id },
      missing: hooks.length ? '' : 'no hook is set up',
    },
    {
      kind: 'reward',
      name: 'Reward',
      fields: { rewards: [reward], on: false, ...five },
      missing: reward ? '' : 'there is no reward',
    },
    { kind: 'count', name: 'Count', fields: { name: 'count', add: 1 } },
    { kind: 'reply', name: 'Reply in chat', fields: { text: '{{viewer}}' } },
    { kind: 'fire', name: 'Another cue', fields: { cue }, missing: cue ? '' : 'there is no other cue' },
  ]
})
const WHOLE = { place: { x: 0, y: 0, w: 1, h: 1 } }
const more = ref(false)

function addOutside(kind: string, fields: Record<string, unknown>): void {
  draft.addBeat(kind, fields)
  more.value = false
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
    <button
      v-for="one in MORE"
      :key="one.kind"
      class="btn tiny"
      :data-test="`add-${one.kind}`"
      @click="one.add"
    >
      <OutputMark :of="one.kind" :size="16" />{{ one.name }}
    </button>
    <ElPopover :visible="more" width="300" placement="top-end">
      <template #reference>
        <button class="btn tiny" data-test="add-more" @click="more = !more">More…</button>
      </template>
      <div class="more">
        <button
          v-for="one in OUTSIDE"
          :key="one.kind"
          class="btn tiny"
          :data-test="`add-${one.kind}`"
          :disabled="Boolean(one.missing)"
          :title="one.missing"
          @click="addOutside(one.kind, one.fields)"
        >
          <OutputMark :of="one.kind" :size="16" />{{ one.name }}
        </button>
      </div>
    </ElPopover>
    <DropZone class="drop" :busy="busy" label="or drop" @files="addFiles" />
  </div>
</template>

<style scoped>
.row {
  gap: 6px;
}

.drop {
  white-space: nowrap;
  padding: 0 4px;
  font-size: 13px;
}

.pick {
  display: grid;
  gap: 8px;
}

.more {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}

.more .btn {
  justify-content: start;
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
