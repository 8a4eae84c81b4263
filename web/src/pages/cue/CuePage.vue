<script setup lang="ts">
import { ElPopconfirm } from 'element-plus'
import { onMounted, onUnmounted, provide, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useBook } from '@/composables/useBook'
import { useCueDraft } from '@/composables/useCueDraft'
import { attempt } from '@/composables/useSay'
import { useTry } from '@/composables/useTry'
import { DRAFT, TRYING } from './draft'
import AddBeat from './AddBeat.vue'
import BeatSettings from './BeatSettings.vue'
import CueSentence from './CueSentence.vue'
import ScoreView from './ScoreView.vue'
import StageView from './StageView.vue'
import SnagList from './SnagList.vue'
import TryBar from './TryBar.vue'

const props = defineProps<{ id: string }>()
const book = useBook()
const router = useRouter()
const draft = useCueDraft(() => props.id)
const trying = useTry(draft)
provide(DRAFT, draft)
provide(TRYING, trying)
const { cue, chosen, problem, state } = draft
const zoom = ref(1)

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
  const beat = draft.chosenBeat.value
  if (!beat) return
  if (event.key === 'Delete' || event.key === 'Backspace') {
    event.preventDefault()
    draft.removeBeat(beat.id)
  } else if (event.key === 'Escape' && !event.shiftKey) chosen.value = null
  else if ((event.key === 'ArrowLeft' || event.key === 'ArrowRight') && !event.altKey) {
    event.preventDefault()
    const step = (event.key === 'ArrowLeft' ? -1 : 1) * (event.shiftKey ? 1 : 0.1)
    const at = Math.round((beat.start.at_s + step) * 1000) / 1000
    beat.start = { ...beat.start, at_s: beat.start.after ? at : Math.max(0, at) }
  }
}
onMounted(() => window.addEventListener('keydown', onKey))
onUnmounted(() => window.removeEventListener('keydown', onKey))

async function remove(): Promise<void> {
  await attempt(async () => {
    await book.remove('cues', props.id)
    await router.push('/cues')
  })
}
</script>

<template>
  <div v-if="cue" class="editor">
    <div class="row head">
      <RouterLink to="/cues" class="soft">Cues</RouterLink><span class="soft">/</span>
      <input v-model="cue.name" class="name" aria-label="Name of the cue" maxlength="200" />
      <span class="small state" :class="state">{{
        { saved: 'Saved', saving: 'Saving…', wrong: 'Not saved' }[state]
      }}</span>
      <span class="grow"></span>
      <TryBar />
      <ElPopconfirm
        title="Remove this cue? Undo brings it back."
        confirm-button-text="Remove"
        cancel-button-text="Keep"
        width="240"
        @confirm="remove"
      >
        <template #reference><button class="btn danger">Remove</button></template>
      </ElPopconfirm>
    </div>
    <CueSentence />
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <SnagList />
    <div class="middle">
      <StageView />
      <BeatSettings />
    </div>
    <section class="card score">
      <div class="row">
        <h2>Score</h2>
        <AddBeat />
        <span class="grow"></span>
        <label class="row small soft"
          >Zoom <input v-model.number="zoom" class="zoom" type="range" min="1" max="8" step="0.5"
        /></label>
      </div>
      <ScoreView :zoom="zoom" />
    </section>
  </div>
  <div v-else class="empty">
    <p>This cue is not there any more.</p>
    <RouterLink to="/cues" class="btn">All cues</RouterLink>
  </div>
</template>

<style scoped>
.editor {
  display: grid;
  grid-template-rows: auto auto auto auto minmax(240px, 1fr) auto;
  gap: 10px;
  height: 100%;
}

.name {
  font: 680 24px var(--display);
  background: none;
  border: 0;
  border-bottom: 2px solid transparent;
  min-width: 120px;
  width: 320px;
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

.middle {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 330px;
  gap: 12px;
  grid-template-rows: minmax(0, 1fr);
  grid-row: 5;
}

.zoom {
  width: 90px;
}

.score {
  grid-row: 6;
  padding-block: 10px;
}
</style>
