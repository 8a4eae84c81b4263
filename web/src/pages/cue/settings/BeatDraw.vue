<script setup lang="ts">
/** From which jar of viewers the chosen beat draws, and how its board looks. */
import { computed } from 'vue'
import { askName } from '@/composables/askName'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { idOf } from '@/logic/ids'
import { freshJar } from '@/logic/jars'
import DurationField from '@/parts/DurationField.vue'
import PickField from '@/parts/PickField.vue'
import { useFields } from './useFields'

const [NOW, NEW] = ['', '+']
const book = useBook()
const { beat, set, text, number } = useFields()
const choices = computed(() => [
  { value: NOW, name: 'whoever is there now' },
  ...(book.book?.jars ?? [])
    .filter((jar) => jar.kind === 'viewers')
    .map((jar) => ({ value: jar.id, name: jar.name || jar.id })),
  { value: NEW, name: 'New jar of viewers…' },
])

async function add(): Promise<void> {
  const name = await askName('New jar of viewers', 'A jar needs a name')
  if (!name) return
  const id = idOf(
    name,
    (book.book?.jars ?? []).map((jar) => jar.id),
  )
  await book.put('jars', freshJar(id, name, 'viewers'))
  set({ jar: id })
}

function choose(jar: string): void {
  if (jar === NEW) void attempt(add)
  else set({ jar: jar || null })
}
</script>

<template>
  <div v-if="beat" class="stack">
    <label class="field"
      >From
      <PickField
        :model-value="text('jar')"
        :choices="choices"
        data-test="draw-jar"
        @update:model-value="choose"
    /></label>
    <div class="two">
      <label class="field"
        >Heading<input
          class="well"
          :value="text('title')"
          maxlength="200"
          placeholder="none"
          data-test="draw-title"
          @change="set({ title: ($event.target as HTMLInputElement).value })"
      /></label>
      <label class="field"
        >Duration<DurationField
          :model-value="number('spin_s', 4)"
          :least="0.1"
          data-test="spin"
          @update:model-value="set({ spin_s: $event })"
      /></label>
    </div>
  </div>
</template>
