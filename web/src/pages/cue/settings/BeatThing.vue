<script setup lang="ts">
/** What the chosen beat does with a thing of a bridge: holds one of its settings, or has it do something once. */
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import { useGear } from '@/composables/useGear'
import { bridgesOf, firstValue, knownAs } from '@/logic/settings'
import type { Choice } from '@/parts/choice'
import PickField from '@/parts/PickField.vue'
import BeatFades from './BeatFades.vue'
import SettingOrViewer from './SettingOrViewer.vue'
import { useFields } from './useFields'

const book = useBook()
const gear = useGear()
const { beat, set, text } = useFields()
const bridges = computed(() => bridgesOf(book.book, gear.catalogue))
const things = computed(() => gear.catalogue[knownAs(text('gear'))]?.things ?? {})
const thing = computed(() => things.value[text('thing')])
const part = computed(() => (beat.value?.kind === 'do' ? 'deed' : 'setting'))
const parts = computed(() => (part.value === 'deed' ? thing.value?.deeds : thing.value?.settings) ?? {})
const kind = computed(() => thing.value?.settings[text('setting')])
const values = computed(() => thing.value?.deeds[text('deed')]?.values ?? {})

const choices = (there: Record<string, { title?: string }>): Choice[] =>
  Object.entries(there).map(([value, one]) => ({ value, name: one.title || value }))

function choosePart(id: string): void {
  if (part.value === 'setting') set({ setting: id, value: firstValue(thing.value?.settings[id]) })
  else set({ deed: id, values: first(thing.value?.deeds[id]?.values ?? {}) })
}

function first(kinds: typeof values.value): Record<string, boolean | number | string> {
  return Object.fromEntries(Object.entries(kinds).map(([name, one]) => [name, firstValue(one)]))
}

function chooseThing(id: string): void {
  const there = things.value[id]
  const next = Object.keys((part.value === 'deed' ? there?.deeds : there?.settings) ?? {})[0]
  set({ thing: id })
  if (next) choosePart(next)
}
</script>

<template>
  <div v-if="beat" class="stack">
    <p v-if="!Object.keys(things).length" class="soft small">
      This bridge isn’t connected yet. Connect it on the Rig page.
    </p>
    <label v-if="bridges.length > 1" class="field"
      >Bridge<PickField
        :model-value="text('gear')"
        :choices="bridges.map((one) => ({ value: one.id, name: one.name || one.id }))"
        @update:model-value="set({ gear: $event })"
    /></label>
    <div class="two">
      <label class="field"
        >Thing<PickField
          :model-value="text('thing')"
          :choices="choices(things)"
          @update:model-value="chooseThing"
      /></label>
      <label class="field"
        >{{ part === 'deed' ? 'does' : 'Setting'
        }}<PickField :model-value="text(part)" :choices="choices(parts)" @update:model-value="choosePart"
      /></label>
    </div>
    <SettingOrViewer
      v-if="beat.kind === 'set'"
      name="Value"
      :kind="kind"
      :model-value="beat.value ?? true"
      @update:model-value="set({ value: $event })"
    />
    <template v-else>
      <SettingOrViewer
        v-for="(one, id) in values"
        :key="id"
        :name="one.title || String(id)"
        :kind="one"
        :model-value="beat.values?.[id] ?? firstValue(one)"
        @update:model-value="set({ values: { ...beat.values, [id]: $event } })"
      />
    </template>
    <BeatFades v-if="beat.kind === 'set' && (kind?.type === 'number' || kind?.type === 'colour')" />
  </div>
</template>
