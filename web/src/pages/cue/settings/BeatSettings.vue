<script setup lang="ts">
/** The chosen beat: when, how long, where, how it comes and goes. */
import type { BeatFields } from '@/api/client'
import { computed } from 'vue'
import { BEAT_KINDS } from '@/api/kinds'
import { BEATS } from '@/beats'
import type { BeatKind } from '@/beats/kind'
import { useBook } from '@/composables/useBook'
import OutputMark from '@/parts/OutputMark.vue'
import BeatConditions from './BeatConditions.vue'
import BeatLook from './BeatLook.vue'
import BeatSound from './BeatSound.vue'
import BeatWhen from './BeatWhen.vue'
import BeatWhose from './BeatWhose.vue'
import BeatWords from './BeatWords.vue'
import { useDraft } from '../draft'
import { fileOf, jarIn, showsFace } from '@/logic/beats'
import { fileChoices, jarChoices, under } from '@/logic/choices'
import PickField from '@/parts/PickField.vue'

const FACE = 'face:viewer'
const book = useBook()
const draft = useDraft()
const beat = draft.chosenBeat

const kind = computed<BeatKind>(() => BEATS[beat.value?.kind ?? 'picture'])
const choices = computed(() => book.media.filter((m) => m.kind === kind.value.shows))
/** Jars that hold what this kind of beat can show; an empty one may still get it. */
const jars = computed(() =>
  (book.book?.jars ?? []).filter((jar) => {
    const held = book.mediaById.get(jar.entries[0]?.value ?? '')?.kind
    return jar.kind === 'media' && (!held || choices.value.some((m) => m.kind === held))
  }),
)
const offered = computed(() => [
  ...(kind.value.faces ? [{ value: FACE, name: 'The viewer’s picture' }] : []),
  ...(kind.value.without ? [{ value: 'file:', name: kind.value.without }] : []),
  ...under('Files', 'file:', fileChoices(choices.value)),
  ...under('Drawn from a jar', 'jar:', jarChoices(jars.value, book.mediaById)),
])
const source = computed({
  get: () => {
    if (showsFace(beat.value)) return FACE
    const jar = jarIn(beat.value?.media)
    return jar ? `jar:${jar}` : `file:${fileOf(beat.value)}`
  },
  set: (value: string) => {
    const [from, id] = value.split(':') as [string, string]
    if (value === FACE) return set({ media: { face: 'viewer' } })
    set({ media: from === 'jar' ? { jar: id, count: 1 } : id ? { file: id } : null })
  },
})
function set(fields: BeatFields): void {
  if (beat.value) draft.change(beat.value.id, fields)
}
</script>

<template>
  <section class="card settings">
    <p v-if="!beat" class="soft">Select a beat on the stage or in the score.</p>
    <template v-else>
      <div class="row">
        <OutputMark :of="beat.kind" :size="20" />
        <h2 class="grow cut-off">{{ kind.name }}: {{ beat.id }}</h2>
        <span v-if="draft.picked.value.length > 1" class="soft small"
          >and {{ draft.picked.value.length - 1 }} more</span
        >
        <button class="btn tiny danger" title="Delete" @click="draft.removeBeat(beat.id)">Remove</button>
      </div>
      <label v-if="kind.shows" class="field">
        What
        <PickField v-model="source" data-test="source" :choices="offered" />
      </label>
      <p v-if="showsFace(beat) && !book.book?.house.faces" class="soft small none">
        Pictures of viewers are off under Rig, House, so their letters are shown.
      </p>
      <BeatWords v-if="beat.text !== undefined" />
      <component :is="form" v-for="(form, i) in kind.settings ?? []" :key="i" />
      <BeatWhen />
      <BeatWhose />
      <BeatConditions />
      <BeatSound v-if="BEAT_KINDS[beat.kind].heard && BEAT_KINDS[beat.kind].way === 'shown'" />
      <BeatLook />
    </template>
  </section>
</template>

<style scoped>
.settings {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
  align-content: start;
  overflow: hidden auto;
  padding-block: 8px;
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

/* Low, so that what the common kinds have is seen at once. */
.settings :deep(label.field) {
  row-gap: 2px;
}

.settings :deep(label.field:has(> .el-slider)) {
  grid-template-columns: minmax(0, 46%) minmax(0, 1fr);
  align-items: center;
  gap: 14px;
  line-height: 1.2;
  padding-right: 8px;
}

.settings :deep(.el-slider) {
  --el-slider-button-size: 16px;
  height: 26px;
}

.settings :deep(input.well),
.settings :deep(.el-select__wrapper),
.settings :deep(.number-field .el-input__wrapper) {
  min-height: 30px;
  padding-block: 2px;
}

.settings :deep(fieldset) {
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 2px 10px;
}

.settings :deep(.none) {
  margin: 0;
}
</style>
