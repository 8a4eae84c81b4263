<script setup lang="ts">
/** A cue as a file: handed on whole, its score for programs that cut film, its captions; and both of these back. */
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
  if (changes.length) say(`${changes.slice(0, LISTED).join('; ')}${more}. Ctrl+Z takes it back.`, 'fine')
  else say('Nothing in it is otherwise than here.', 'fine')
  if (lost.length) say(`Not in the library: ${lost.join(', ')}`, 'wrong')
}

/** Takes a file in; what it is shows in its first letters. */
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
    v-model:visible="shown"
    role="dialog"
    aria-label="As a file"
    trigger="click"
    placement="bottom-end"
    width="360"
  >
    <template #reference><button class="btn" data-test="cue-files">As a file</button></template>
    <div class="ways">
      <a class="btn main" :href="`/api/carry/cues.zip?cue=${id}`" download data-test="hand-on">Hand it on</a>
      <span class="small soft">with all that it needs, for another Cue Jar</span>
      <a class="btn" :href="`/api/cues/${id}/score.otio`" download data-test="score-out">Its score</a>
      <span class="small soft">OpenTimelineIO, for video editors: times only</span>
      <a class="btn" :href="`/api/cues/${id}/score.otioz`" download data-test="score-media-out"
        >Score and media</a
      >
      <span class="small soft">the same with its pictures, clips and sounds</span>
      <a class="btn" :href="`/api/cues/${id}/captions.vtt`" download>Its captions</a>
      <span class="small soft">WebVTT</span>
      <button class="btn" @click="input?.click()">Take in</button>
      <span class="small soft">a score or captions that were changed elsewhere</span>
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
