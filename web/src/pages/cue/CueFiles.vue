<script setup lang="ts">
/** A cue as a file: shared whole, its score for film editors, its captions; and imports of both. */
import { ElPopover } from 'element-plus'
import { ref } from 'vue'
import { api, got, upload, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'

type Taken = Schemas['FileTaken']
const props = defineProps<{ id: string; ready: () => Promise<unknown> }>()
const book = useBook()
const input = ref<HTMLInputElement>()
const shown = ref(false)
const LISTED = 3

function told(taken: Taken): void {
  const { changes, lost } = taken
  const more = changes.length > LISTED ? `, and ${changes.length - LISTED} more` : ''
  if (changes.length) say(`${changes.slice(0, LISTED).join('; ')}${more}. Ctrl+Z undoes it.`, 'fine')
  else say('The file has no changes.', 'fine')
  if (lost.length) say(`Not in the library: ${lost.join(', ')}`, 'wrong')
}

/** Imports a file; its first letters show its format. */
async function takeIn(file: File | undefined): Promise<void> {
  if (!file) return
  await attempt(async () => {
    await props.ready()
    const params = { path: { cue_id: props.id } }
    const isZip = (await file.slice(0, 2).text()) === 'PK'
    const body = { text: isZip ? '' : await file.text() }
    const isCaptions = body.text.replace(/^\uFEFF/, '').startsWith('WEBVTT')
    const taken = await book.edit<Taken>(() =>
      got(
        isZip
          ? api.POST('/api/cues/{cue_id}/score.otioz', { params, ...upload(file) })
          : isCaptions
            ? api.POST('/api/cues/{cue_id}/captions.vtt', { params, body })
            : api.POST('/api/cues/{cue_id}/score.otio', { params, body }),
      ),
    )
    book.outside += 1
    shown.value = false
    told(taken)
  })
}
</script>

<template>
  <ElPopover
    :persistent="false"
    v-model:visible="shown"
    role="dialog"
    aria-label="Export"
    trigger="click"
    placement="bottom-end"
    width="360"
  >
    <template #reference><button class="btn" data-test="cue-files">Export</button></template>
    <div class="ways">
      <a class="btn main" :href="`/api/carry/cues.zip?cue=${id}`" download data-test="hand-on">Share…</a>
      <span class="small soft">one file with everything it needs</span>
      <a class="btn" :href="`/api/cues/${id}/score.otio`" download data-test="score-out">Score</a>
      <span class="small soft">OpenTimelineIO for video editors, times only</span>
      <a class="btn" :href="`/api/cues/${id}/score.otioz`" download data-test="score-media-out"
        >Score and media</a
      >
      <span class="small soft">OpenTimelineIO with pictures, clips and sounds</span>
      <a class="btn" :href="`/api/cues/${id}/captions.vtt`" download>Captions</a>
      <span class="small soft">WebVTT</span>
      <button class="btn" @click="input?.click()">Import changes…</button>
      <span class="small soft">a score or captions edited elsewhere</span>
      <input
        ref="input"
        type="file"
        hidden
        accept=".otio,.otioz,.vtt"
        data-test="file-in"
        @change="(takeIn(input?.files?.[0]), input && (input.value = ''))"
      />
    </div>
  </ElPopover>
</template>

<style scoped>
.ways {
  display: grid;
  grid-template-columns: 136px minmax(0, 1fr);
  gap: 8px 12px;
  align-items: center;
}

.btn {
  justify-content: center;
}
</style>
