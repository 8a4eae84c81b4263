<script setup lang="ts">
/** The chosen beat: when, how long, where, how it comes and goes. */
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import { KIND_NAMES, markOf } from '@/parts/marks'
import OutputMark from '@/parts/OutputMark.vue'
import BeatAvatar from './BeatAvatar.vue'
import BeatBroadcast from './BeatBroadcast.vue'
import BeatHaptics from './BeatHaptics.vue'
import BeatKeys from './BeatKeys.vue'
import BeatLight from './BeatLight.vue'
import BeatLook from './BeatLook.vue'
import BeatOut from './BeatOut.vue'
import BeatThrow from './BeatThrow.vue'
import BeatSpeech from './BeatSpeech.vue'
import BeatSound from './BeatSound.vue'
import BeatWhen from './BeatWhen.vue'
import BeatWords from './BeatWords.vue'
import ChanceSettings from './ChanceSettings.vue'
import { useDraft } from '../draft'

const book = useBook()
const draft = useDraft()
const beat = draft.chosenBeat

const choices = computed(() =>
  book.media.filter(
    (m) => m.kind === (['burst', 'throw'].includes(beat.value?.kind ?? '') ? 'picture' : beat.value?.kind),
  ),
)
/** Jars that hold what this kind of beat can show; an empty one may still get it. */
const jars = computed(() =>
  (book.book?.jars ?? []).filter((jar) => {
    const kind = book.mediaById.get(jar.entries[0]?.value ?? '')?.kind
    return jar.kind === 'media' && (!kind || choices.value.some((m) => m.kind === kind))
  }),
)
const source = computed({
  get: () => {
    const ref = beat.value?.media as { file?: string; jar?: string } | undefined
    return ref?.jar ? `jar:${ref.jar}` : `file:${ref?.file ?? ''}`
  },
  set: (value: string) => {
    const [kind, id] = value.split(':') as [string, string]
    set({ media: kind === 'jar' ? { jar: id, count: 1 } : id ? { file: id } : null })
  },
})
const chances = computed(() =>
  draft.beats.value
    .filter((b) => b.kind === 'chance')
    .flatMap((b) => (b.outcomes ?? []) as { id: string; name: string }[]),
)
const rolled = computed(() => beat.value?.only_if.find((c) => c.rolled)?.rolled ?? '')

function setRolled(outcome: string): void {
  const rest = (beat.value?.only_if ?? []).filter((c) => !c.rolled)
  set({ only_if: outcome ? [...rest, { rolled: outcome }] : rest })
}

function set(fields: Record<string, unknown>): void {
  if (beat.value) draft.change(beat.value.id, fields)
}
</script>

<template>
  <section class="card settings">
    <p v-if="!beat" class="soft">Choose a beat on the stage or on the score to set it.</p>
    <template v-else>
      <div class="row">
        <OutputMark :of="beat.kind" :size="20" />
        <h2 class="grow cut-off">{{ KIND_NAMES[beat.kind] ?? markOf(beat.kind).name }}: {{ beat.id }}</h2>
        <span v-if="draft.picked.value.length > 1" class="soft small"
          >and {{ draft.picked.value.length - 1 }} more</span
        >
        <button class="btn tiny danger" title="Delete" @click="draft.removeBeat(beat.id)">Remove</button>
      </div>
      <label v-if="beat.media || beat.kind === 'burst' || beat.kind === 'throw'" class="field">
        What
        <select v-model="source" class="well" data-test="source">
          <option v-if="beat.kind === 'burst'" value="file:">a shape, no picture</option>
          <option v-if="beat.kind === 'throw'" value="file:">drops of a colour</option>
          <optgroup label="Files">
            <option v-for="m in choices" :key="m.id" :value="`file:${m.id}`">
              {{ m.name }}{{ m.missing ? ' (missing)' : '' }}
            </option>
          </optgroup>
          <optgroup v-if="jars.length" label="Drawn from a jar">
            <option v-for="jar in jars" :key="jar.id" :value="`jar:${jar.id}`">
              {{ jar.name || jar.id }}
            </option>
          </optgroup>
        </select>
      </label>
      <BeatWords v-if="beat.text !== undefined" />
      <BeatSpeech v-if="beat.kind === 'speech'" />
      <BeatBroadcast v-if="['scene', 'source', 'filter'].includes(beat.kind)" />
      <BeatLight v-if="beat.kind === 'light'" />
      <BeatAvatar v-if="beat.kind === 'avatar' || beat.kind === 'voice'" />
      <BeatThrow v-if="beat.kind === 'throw'" />
      <BeatHaptics v-if="beat.kind === 'haptics'" />
      <BeatKeys v-if="beat.kind === 'keys' || beat.kind === 'tap'" />
      <BeatOut v-if="['hook', 'reward', 'count', 'fire'].includes(beat.kind)" />
      <ChanceSettings v-if="beat.kind === 'chance'" />
      <label v-if="chances.length && beat.kind !== 'chance'" class="field">
        Only if
        <select
          class="well"
          data-test="only-if"
          :value="rolled"
          @change="setRolled(($event.target as HTMLSelectElement).value)"
        >
          <option value="">always</option>
          <option v-for="o in chances" :key="o.id" :value="o.id">it comes out {{ o.name || o.id }}</option>
        </select>
      </label>
      <div v-if="beat.kind === 'burst'" class="two">
        <label class="field"
          >Pieces<input
            class="well"
            type="number"
            min="1"
            max="400"
            :value="Number(beat.count ?? 60)"
            @change="set({ count: Number(($event.target as HTMLInputElement).value) })"
        /></label>
        <label class="field"
          >Shape<select
            class="well"
            :value="beat.shape ?? 'ticket'"
            @change="set({ shape: ($event.target as HTMLSelectElement).value })"
          >
            <option v-for="shape in ['ticket', 'spark', 'leaf', 'dot']" :key="shape">{{ shape }}</option>
          </select></label
        >
        <label class="field"
          >Bounce<input
            class="well"
            type="number"
            min="0"
            max="1"
            step="0.1"
            :value="Number(beat.bounce ?? 0)"
            @change="set({ bounce: Number(($event.target as HTMLInputElement).value) })"
        /></label>
      </div>
      <BeatWhen />
      <BeatSound v-if="['sound', 'clip', 'speech'].includes(beat.kind)" />
      <BeatLook />
    </template>
  </section>
</template>

<style scoped>
.settings {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 10px;
  align-content: start;
  overflow: hidden auto;
  min-height: 0;
}

.settings :deep(.stack) {
  display: grid;
  gap: 8px;
  align-content: start;
}

.settings :deep(.stack .two) {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  align-items: end;
}

.settings :deep(fieldset) {
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 2px 10px;
}

.settings :deep(.none) {
  margin: 0;
}

.two {
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: 1fr;
  gap: 8px;
  align-items: end;
}
</style>
