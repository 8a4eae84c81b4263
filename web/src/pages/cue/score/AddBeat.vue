<script setup lang="ts">
import { ElPopover } from 'element-plus'
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Media } from '@/api/client'
import type { BeatKindName } from '@/api/kinds'
import { BEAT_NAMES, BEATS } from '@/beats'
import type { BeatKind } from '@/beats/kind'
import { useBook } from '@/composables/useBook'
import { useGear } from '@/composables/useGear'
import { attempt } from '@/composables/useSay'
import { ANY_TEXT } from '@/logic/texts'
import DropZone from '@/parts/DropZone.vue'
import MediaPicker from '@/parts/MediaPicker.vue'
import OutputMark from '@/parts/OutputMark.vue'
import { useDraft } from '../draft'

const book = useBook()
const gear = useGear()
const draft = useDraft()
const open = ref<BeatKindName | null>(null)
const busy = ref(false)
const WITH_FILE = offered('with a file')
const AT_ONCE = offered('at once')
const more = ref(false)
const line = ref<HTMLElement>()
const { width } = useElementSize(line)
/** The approximate width of a pill, and of the rest of the row. */
const PILL_PX = 98
const OTHERS_PX = 410
/** How many pills fit into the row; the others are under More. */
const room = computed(() => Math.max(0, Math.floor((width.value - OTHERS_PX) / PILL_PX)))

function offered(how: BeatKind['offered']): BeatKindName[] {
  return BEAT_NAMES.filter((kind) => BEATS[kind].offered === how)
}

const byKind = computed(() =>
  Object.fromEntries(WITH_FILE.map((kind) => [kind, book.media.filter((m) => m.kind === BEATS[kind].shows)])),
)
const around = computed(() => ({
  book: book.book,
  cue: draft.cue.value,
  catalogue: gear.catalogue,
  scene: String(
    gear.gear.flatMap((one) => one.properties).find((one) => one.path === 'broadcast/scene')?.rest ?? '',
  ),
}))
/** Beats for other gear, or outside; behind one button, as there are many. */
const among = computed(() =>
  [...AT_ONCE.slice(room.value), ...offered('among more')].map((kind) => ({
    kind,
    fresh: BEATS[kind].fresh(around.value),
  })),
)

function add(entry: Media): void {
  const fresh = BEATS[entry.kind as BeatKindName].fresh(around.value)
  if (typeof fresh !== 'string') draft.addBeat(entry.kind, { media: { file: entry.id }, ...fresh })
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

function addFresh(kind: BeatKindName): void {
  const fresh = BEATS[kind].fresh(around.value)
  if (typeof fresh === 'string') return
  draft.addBeat(kind, fresh)
  more.value = false
  const cue = draft.cue.value
  if (BEATS[kind].asks && cue && !cue.door.text) cue.door.text = { ...ANY_TEXT }
}
</script>

<template>
  <div ref="line" class="row line">
    <ElPopover
      :persistent="false"
      v-for="kind in WITH_FILE"
      :key="kind"
      role="dialog"
      :aria-label="`Which ${BEATS[kind].name.toLowerCase()}`"
      :visible="open === kind"
      width="420"
      placement="top-start"
    >
      <template #reference>
        <button class="btn tiny" :data-test="`add-${kind}`" @click="open = open === kind ? null : kind">
          <OutputMark :of="kind" :size="16" />{{ BEATS[kind].name }}
        </button>
      </template>
      <div class="pick">
        <MediaPicker v-if="open === kind" :media="byKind[kind] ?? []" @pick="add" />
        <DropZone :busy="busy" @files="addFiles" />
        <button class="btn tiny" @click="open = null">Close</button>
      </div>
    </ElPopover>
    <button
      v-for="kind in AT_ONCE.slice(0, room)"
      :key="kind"
      class="btn tiny"
      :data-test="`add-${kind}`"
      @click="addFresh(kind)"
    >
      <OutputMark :of="kind" :size="16" />{{ BEATS[kind].name }}
    </button>
    <ElPopover
      :persistent="false"
      role="dialog"
      aria-label="More kinds of beat"
      :visible="more"
      width="300"
      placement="top-end"
    >
      <template #reference>
        <button class="btn tiny" data-test="add-more" @click="more = !more">More…</button>
      </template>
      <div class="more">
        <button
          v-for="one in among"
          :key="one.kind"
          class="btn tiny"
          :data-test="`add-${one.kind}`"
          :disabled="typeof one.fresh === 'string'"
          :title="typeof one.fresh === 'string' ? one.fresh : ''"
          @click="addFresh(one.kind)"
        >
          <OutputMark :of="one.kind" :size="16" />{{ BEATS[one.kind].name }}
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

.line {
  flex: 1;
  min-width: 0;
  flex-wrap: nowrap;
}

@media (max-width: 600px) {
  .line {
    flex-wrap: wrap;
  }
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
</style>
