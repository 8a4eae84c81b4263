<script setup lang="ts">
/** What the checks found in this cue, with a one-click fix if there is one. */
import { computed } from 'vue'
import type { AnyBeat } from '@/api/client'
import type { Snag } from '@/composables/useCueDraft'
import { useDraft } from './draft'

const draft = useDraft()
const shown = computed(() => draft.snags.value.filter((snag) => snag.hidden === null))

function mend({ change }: Snag): void {
  if (!change) return
  if (change.beat) draft.change(change.beat, change.fields)
  else if (draft.cue.value) Object.assign(draft.cue.value, change.fields)
  draft.cue.value?.beats.push(...(change.add as unknown as AnyBeat[]))
}
</script>

<template>
  <ul v-if="shown.length" class="snags small" aria-label="Snags">
    <li v-for="snag in shown" :key="snag.check + snag.beat" :class="snag.grade">
      <span aria-hidden="true">{{ snag.grade === 'error' ? '✕' : '▲' }}</span>
      <button v-if="snag.beat" class="link" @click="draft.chosen.value = snag.beat">{{ snag.what }}</button>
      <span v-else>{{ snag.what }}</span>
      <button v-if="snag.change" class="btn tiny" :data-test="`mend-${snag.check}`" @click="mend(snag)">
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
