<script setup lang="ts">
/** When the chosen beat plays: only if its conditions hold, or only if they don't. */
import { computed } from 'vue'
import { sayBeat } from '@/beats'
import { jarIn, startAfter } from '@/logic/beats'
import { freeId } from '@/logic/ids'
import type { Condition } from '@/logic/conditions'
import ConditionList from '@/parts/ConditionList.vue'
import { useDraft } from '../draft'

/** The outcomes of a draw of viewers. */
const DRAWS = [
  { value: 'drawn', name: 'somebody was drawn' },
  { value: 'nobody', name: 'nobody to draw' },
]
const draft = useDraft()
const beat = draft.chosenBeat
const outcomes = computed(() => [
  ...draft.beats.value
    .filter((one) => one.kind === 'chance' && one.id !== beat.value?.id)
    .flatMap((one) => one.outcomes ?? [])
    .map((one) => ({ value: one.id, name: one.name || one.id })),
  ...(draft.beats.value.some((one) => one.kind === 'draw' && one.id !== beat.value?.id) ? DRAWS : []),
])
const draws = computed(() =>
  draft.beats.value
    .filter((one) => one.id !== beat.value?.id && [one.media, one.text, one.colour, one.cue].some(jarIn))
    .map((one) => ({ value: one.id, name: sayBeat(one) })),
)

/** A beat that depends on a roll begins after it, unless it was moved already. */
function set(only_if: Condition[]): void {
  if (!beat.value) return
  const rolled = only_if.find((one) => one.rolled)?.rolled
  const decides = draft.beats.value.find((one) =>
    one.kind === 'draw'
      ? DRAWS.some((outcome) => outcome.value === rolled)
      : one.outcomes?.some((outcome) => outcome.id === rolled),
  )
  draft.change(beat.value.id, {
    only_if,
    ...(rolled ? startAfter(beat.value, decides) : {}),
    ...(only_if.length ? {} : { unless: false }),
  })
}

/** A second beat for when the conditions do not hold. */
function addElse(): void {
  if (!beat.value || !draft.cue.value) return
  const copy = JSON.parse(JSON.stringify(beat.value)) as typeof beat.value
  copy.id = freeId(copy.kind, new Set(draft.beats.value.map((one) => one.id)))
  copy.unless = !copy.unless
  draft.cue.value.beats.push(copy as never)
  draft.chosen.value = copy.id
}
</script>

<template>
  <div v-if="beat" class="field" data-test="only-if">
    <span class="row">
      <span class="grow">{{
        !beat.only_if.length ? 'Plays every time' : beat.unless ? 'Plays unless' : 'Plays only if'
      }}</span>
      <template v-if="beat.only_if.length">
        <button class="btn tiny" data-test="unless" @click="draft.change(beat.id, { unless: !beat.unless })">
          {{ beat.unless ? 'Only if' : 'Unless' }}
        </button>
        <button
          class="btn tiny"
          title="Add a beat that plays whenever this one doesn’t play"
          data-test="else"
          @click="addElse"
        >
          Else…
        </button>
      </template>
    </span>
    <ConditionList
      :model-value="beat.only_if"
      :outcomes="outcomes"
      :draws="draws"
      @update:model-value="set"
    />
  </div>
</template>
