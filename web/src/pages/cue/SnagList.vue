<script setup lang="ts">
/** What the checks found in this cue, with the one-click mend where there is one. */
import { BEAT_KINDS } from '@/api/kinds'
import type { Snag } from '@/composables/useCueDraft'
import { useDraft } from './draft'

const draft = useDraft()

const MENDS: Record<string, (snag: Snag) => void> = {
  sound_outlasts_picture: () => {
    const picture = draft.beats.value.find(
      ({ kind }) => BEAT_KINDS[kind].seen && BEAT_KINDS[kind].way === 'shown',
    )
    if (picture) draft.change(picture.id, { length: 'to_end' })
  },
  lost_name: (snag) => {
    const name = snag.near[0]
    if (!name) return
    draft.change(snag.beat, { [snag.key]: snag.key === 'sources' ? [name] : name })
  },
  too_short: (snag) => draft.change(snag.beat, { length: { s: 3 } }),
  text_not_asked: () => {
    if (draft.cue.value)
      draft.cue.value.door.text = {
        need: true,
        kind: 'any',
        min: null,
        max: 200,
        too_long: 'refuse',
        choices: [],
        range: null,
      }
  },
}
</script>

<template>
  <ul class="snags small" aria-label="Snags">
    <li v-for="snag in draft.snags.value" :key="snag.check + snag.beat" :class="snag.grade">
      <span aria-hidden="true">{{ snag.grade === 'error' ? '✕' : '▲' }}</span>
      <button v-if="snag.beat" class="link" @click="draft.chosen.value = snag.beat">{{ snag.what }}</button>
      <span v-else>{{ snag.what }}</span>
      <button
        v-if="MENDS[snag.check] && (snag.check !== 'lost_name' || snag.near.length)"
        class="btn tiny"
        :data-test="`mend-${snag.check}`"
        @click="MENDS[snag.check]?.(snag)"
      >
        {{ snag.mend }}
      </button>
      <span v-else class="soft">{{ snag.mend }}</span>
    </li>
  </ul>
</template>

<style scoped>
.snags {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  gap: 4px 24px;
  height: 30px;
  overflow-x: auto;
  white-space: nowrap;
}

li {
  display: flex;
  gap: 8px;
  align-items: center;
  color: var(--marmalade);
}

li.error {
  color: var(--berry);
}

.link {
  background: none;
  border: 0;
  padding: 0;
  text-align: left;
  cursor: pointer;
}
</style>
