<script setup lang="ts">
import { ElPopover } from 'element-plus'
import { useEventListener } from '@vueuse/core'
import { provide, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useBook } from '@/composables/useBook'
import { useCueDraft } from '@/composables/useCueDraft'
import { api, got } from '@/api/client'
import { attempt, say } from '@/composables/useSay'
import { useTry } from '@/composables/useTry'
import { DRAFT, TRYING } from './draft'
import DoorAsk from '@/parts/DoorAsk.vue'
import CueFiles from './CueFiles.vue'
import CueFollow from './CueFollow.vue'
import CueHistory from './CueHistory.vue'
import CuePanes from './CuePanes.vue'
import AddBeat from './score/AddBeat.vue'
import BeatSettings from './settings/BeatSettings.vue'
import CueSentence from './sentence/CueSentence.vue'
import ScoreView from './score/ScoreView.vue'
import StageView from './stage/StageView.vue'
import SnagList from './SnagList.vue'
import TryBar from './stage/TryBar.vue'

const props = defineProps<{ id: string }>()
const book = useBook()
const router = useRouter()
const draft = useCueDraft(() => props.id)
const trying = useTry(draft)
provide(DRAFT, draft)
provide(TRYING, trying)
const { cue, chosen, problem, state } = draft
const zoom = ref(1)
/** The space around the rows of the score, in px. */
const AROUND_SCORE_PX = 60
const tall = ref(200)

function onKey(event: KeyboardEvent): void {
  const target = event.target as HTMLElement
  if (['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName)) return
  if (event.code === 'Space' && !['BUTTON', 'A'].includes(target.tagName)) {
    event.preventDefault()
    if (event.shiftKey) void trying.onAir()
    else if (trying.playing.value) trying.stop()
    else void trying.here()
    return
  }
  if ((event.ctrlKey || event.metaKey) && !event.altKey && onShelf(event.key.toLowerCase())) {
    event.preventDefault()
    return
  }
  const picked = draft.picked.value
  if (!picked.length) return
  if (event.key === 'Delete' || event.key === 'Backspace') {
    event.preventDefault()
    for (const beat of picked) draft.removeBeat(beat.id)
  } else if (event.key === 'Escape' && !event.shiftKey) chosen.value = null
  else if ((event.key === 'ArrowLeft' || event.key === 'ArrowRight') && !event.altKey) {
    event.preventDefault()
    const step = (event.key === 'ArrowLeft' ? -1 : 1) * (event.shiftKey ? 1 : 0.1)
    for (const beat of picked) {
      const at = Math.round((beat.start.at_s + step) * 1000) / 1000
      beat.start = { ...beat.start, at_s: beat.start.after ? at : Math.max(0, at) }
    }
  }
}

/** Copy, cut, paste and select all, for beats within and between cues. */
function onShelf(key: string): boolean {
  if (key === 'c' || key === 'x') {
    if (window.getSelection()?.toString()) return false
    const count = draft.copy()
    if (!count) return false
    if (key === 'x') for (const beat of draft.picked.value) draft.removeBeat(beat.id)
    say(
      `${count} ${count === 1 ? 'beat' : 'beats'} ${key === 'x' ? 'cut' : 'copied'}. Ctrl+V pastes them, in any cue.`,
    )
    return true
  }
  if (key === 'v') return draft.paste() > 0
  if (key === 'a') {
    draft.chooseAll()
    return true
  }
  return false
}
useEventListener(window, 'keydown', onKey)

/** Unsaved changes are saved first, so that they are what is undone. */
async function step(back: boolean): Promise<void> {
  await attempt(async () => {
    await draft.flush()
    await book.step(back)
  })
}

function setTags(text: string): void {
  const tags = text.split(',').map((tag) => tag.trim())
  if (cue.value) cue.value.tags = [...new Set(tags)].filter(Boolean)
}

async function duplicate(): Promise<void> {
  await attempt(async () => {
    await draft.flush()
    const params = { path: { cue_id: props.id } }
    const made = await book.edit(() => got(api.POST('/api/cues/{cue_id}/copy', { params })))
    await router.push(`/cues/${made.cue.id}`)
    say('This is the copy. Nothing calls it yet.', 'fine')
  })
}

async function remove(): Promise<void> {
  await attempt(async () => {
    await book.remove('cues', props.id)
    await router.push('/cues')
  })
}
</script>

<template>
  <div v-if="cue" class="editor">
    <h1 class="unseen">{{ cue.name }}</h1>
    <div class="row head">
      <RouterLink to="/cues" class="soft">Cues</RouterLink><span class="soft">/</span>
      <input v-model="cue.name" class="name" aria-label="Cue name" maxlength="200" />
      <span class="small state" :class="state">{{
        { saved: 'Saved', saving: 'Saving…', wrong: 'Not saved' }[state]
      }}</span>
      <button
        class="btn tiny"
        :disabled="!book.undoSteps && state !== 'saving'"
        :title="
          state === 'saving' ? 'Undo this change' : book.undoes ? `Undo: ${book.undoes}` : 'Nothing to undo'
        "
        data-test="undo"
        aria-label="Undo"
        @click="step(true)"
      >
        ↶
      </button>
      <button
        class="btn tiny"
        :disabled="!book.redoSteps"
        :title="book.redoes ? `Redo: ${book.redoes}` : 'Nothing to redo'"
        data-test="redo"
        aria-label="Redo"
        @click="step(false)"
      >
        ↷
      </button>
      <span class="grow"></span>
      <TryBar />
      <DoorAsk :cue="cue" />
      <CueHistory />
      <CueFiles :id="id" :ready="draft.flush" />
      <ElPopover
        :persistent="false"
        trigger="click"
        width="260"
        placement="bottom-end"
        role="dialog"
        aria-label="More"
      >
        <template #reference><button class="btn" data-test="cue-more">More</button></template>
        <div class="more">
          <label class="field"
            >Tags<input
              class="well"
              :value="cue.tags.join(', ')"
              placeholder="none"
              data-test="cue-tags"
              @change="setTags(($event.target as HTMLInputElement).value)"
          /></label>
          <label class="field"
            >Note<textarea
              v-model.lazy="cue.note"
              class="well"
              rows="3"
              placeholder="Private note"
              data-test="cue-note"
            ></textarea>
          </label>
          <button class="btn" data-test="duplicate" @click="duplicate">Duplicate</button>
          <button class="btn danger" title="Undo brings it back" data-test="remove" @click="remove">
            Remove
          </button>
        </div>
      </ElPopover>
    </div>
    <CueFollow />
    <CueSentence />
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <SnagList />
    <CuePanes :tall="tall">
      <template #stage><StageView /></template>
      <template #score>
        <section class="card score-card" aria-label="Score">
          <div class="row tools">
            <h2>Score</h2>
            <AddBeat />
            <input
              v-model.number="zoom"
              title="Score zoom"
              aria-label="Score zoom"
              class="zoom"
              type="range"
              min="1"
              max="8"
              step="0.5"
            />
          </div>
          <ScoreView :zoom="zoom" @tall="tall = $event + AROUND_SCORE_PX" />
        </section>
      </template>
      <template #settings><BeatSettings /></template>
    </CuePanes>
  </div>
  <div v-else class="empty">
    <p>This cue no longer exists.</p>
    <RouterLink to="/cues" class="btn">All cues</RouterLink>
  </div>
</template>

<style scoped>
.editor {
  display: flex;
  flex-direction: column;
  gap: 8px;
  height: 100%;
}

.name {
  font: 680 24px var(--display);
  background: none;
  border: 0;
  border-bottom: 2px solid transparent;
  flex: 0 1 320px;
  min-width: 120px;
}

.head :deep(.btn) {
  white-space: nowrap;
}

.more {
  display: grid;
  gap: 8px;
}

.name:hover,
.name:focus {
  border-bottom-color: var(--line);
  outline: none;
}

.state {
  color: var(--soft);
}

.state.wrong,
.problem {
  color: var(--berry);
  margin: 0;
}

.zoom {
  width: 70px;
}

.score-card {
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(0, 1fr);
  min-height: 0;
  padding-block: 6px;
}

.tools {
  flex-wrap: nowrap;
}

@media (max-width: 1120px) {
  .editor {
    height: auto;
  }

  .head {
    flex-wrap: wrap;
  }

  .name {
    width: auto;
    flex: 1 1 160px;
  }
}
</style>
