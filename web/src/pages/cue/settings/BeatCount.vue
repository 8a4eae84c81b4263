<script setup lang="ts">
/** Which count the chosen beat changes, and by how much. */
import { computed } from 'vue'
import type { AnyBeat } from '@/api/client'
import { askName } from '@/composables/askName'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { idOf } from '@/logic/ids'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'
import { useFields } from './useFields'

/** There is no count with this id. */
const NEW = ''
const book = useBook()
const { beat, set, number, text } = useFields()
const counts = computed(() => book.book?.counts ?? [])
/** Beats may use counts that have no page of their own. */
const used = computed(() =>
  (book.book?.cues ?? []).flatMap((cue) =>
    (cue.beats as AnyBeat[]).flatMap((one) => (one.kind === 'count' && one.name ? [String(one.name)] : [])),
  ),
)
const choices = computed(() => {
  const known = new Map(counts.value.map((one) => [one.id, one.name]))
  for (const name of [...used.value, text('name')]) if (name && !known.has(name)) known.set(name, name)
  return [...[...known].map(([value, name]) => ({ value, name })), { value: NEW, name: 'New count…' }]
})

async function add(): Promise<void> {
  const name = await askName('New count', 'A count needs a name')
  if (!name) return
  const id = idOf(
    name,
    choices.value.map((one) => one.value),
  )
  await book.put('counts', { id, name, goal: null, per: 'stream', feeds: [] })
  set({ name: id })
}

function choose(name: string): void {
  if (name === NEW) void attempt(add)
  else set({ name })
}
</script>

<template>
  <div v-if="beat" class="two">
    <label class="field"
      >Count
      <PickField
        :model-value="text('name')"
        :choices="choices"
        data-test="count-of"
        @update:model-value="choose"
    /></label>
    <label class="field"
      >Add<NumberField :model-value="number('add', 1)" whole @update:model-value="set({ add: $event })"
    /></label>
  </div>
</template>
