<script setup lang="ts">
/** Which lamps the chosen beat holds, in which colour, at which level, and how they move. */
import type { BeatFields } from '@/api/client'
import { ElCheckbox, ElOption, ElSlider } from 'element-plus'
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import DurationField from '@/parts/DurationField.vue'
import { useDraft } from '../draft'
import BeatFades from './BeatFades.vue'
import { useFields } from './useFields'
import PickField from '@/parts/PickField.vue'

const book = useBook()
const draft = useDraft()
const { beat, set, number } = useFields()
const lamps = computed(() => (book.book?.gear ?? []).filter((g) => g.kind === 'lights'))
const choices = computed(() => [
  ...lamps.value.flatMap((g) => g.groups.map((x) => ({ id: x.id, name: `${x.name} (group)` }))),
  ...lamps.value.flatMap((g) => g.fixtures.map((x) => ({ id: x.id, name: x.name || x.id }))),
])
const wanted = computed(() => beat.value?.fixtures as 'all' | string[])
const jars = computed(() => (book.book?.jars ?? []).filter((jar) => jar.kind === 'colour'))
const colour = computed(() => beat.value?.colour)
/** The source of its colour. */
const from = computed(() => {
  const value = colour.value
  if (value === null || value === undefined) return 'none'
  if (typeof value === 'object') return `jar:${value.jar}`
  if (value.includes('{{')) return 'viewer'
  return value === 'random' ? 'random' : 'fixed'
})
const LOOKS = {
  '': 'no look',
  steady: 'steady',
  breathe: 'breathing',
  chase: 'chasing round',
  flicker: 'flickering',
}

function toggle(id: string, on: boolean): void {
  const now = wanted.value === 'all' ? [] : wanted.value
  const next = on ? [...now, id] : now.filter((other) => other !== id)
  set({ fixtures: next.length ? next : 'all' })
}

function setFrom(kind: string): void {
  if (kind.startsWith('jar:')) set({ colour: { jar: kind.slice(4), count: 1 } })
  else if (kind === 'none') set({ colour: null, level: beat.value?.level ?? 1 })
  else set({ colour: { fixed: '#c0392b', viewer: '{{colour}}', random: 'random' }[kind] })
  const cue = draft.cue.value
  if (kind === 'viewer' && cue && cue.door.text?.kind !== 'colour')
    cue.door.text = {
      need: true,
      kind: 'colour',
      min: null,
      max: 200,
      too_long: 'refuse',
      choices: [],
      range: null,
    }
}

function setLook(look: string): void {
  set({ look: (look || null) as BeatFields['look'] })
}
</script>

<template>
  <div v-if="beat" class="stack">
    <p v-if="!choices.length" class="soft small">No lamps yet. Add them on the Rig page.</p>
    <fieldset class="small">
      <legend class="soft">Lamps</legend>
      <ElCheckbox
        :model-value="wanted === 'all'"
        @update:model-value="set({ fixtures: $event || !choices.length ? 'all' : [choices[0]!.id] })"
        >All lamps that aren’t exempt</ElCheckbox
      >
      <template v-if="wanted !== 'all'">
        <ElCheckbox
          v-for="one in choices"
          :key="one.id"
          :model-value="wanted.includes(one.id)"
          @update:model-value="toggle(one.id, Boolean($event))"
          >{{ one.name }}</ElCheckbox
        >
      </template>
    </fieldset>
    <div class="two">
      <label class="field"
        >Colour
        <PickField data-test="colour-from" :model-value="from" @update:model-value="setFrom($event)">
          <ElOption value="fixed" label="this one" />
          <ElOption value="viewer" label="the viewer’s" />
          <ElOption value="random" label="random" />
          <ElOption
            v-for="jar in jars"
            :key="jar.id"
            :value="`jar:${jar.id}`"
            :label="`from ${jar.name || jar.id}`"
          />
          <ElOption value="none" label="unchanged" />
        </PickField>
      </label>
      <label v-if="from === 'fixed'" class="field"
        >Which<input
          type="color"
          :value="String(colour)"
          @input="set({ colour: ($event.target as HTMLInputElement).value })"
      /></label>
    </div>
    <label class="field"
      ><ElCheckbox
        :model-value="typeof beat.level === 'number'"
        @update:model-value="set({ level: $event || from === 'none' ? 1 : null })"
        >at a level of
        {{ typeof beat.level === 'number' ? `${Math.round(beat.level * 100)} %` : '…' }}</ElCheckbox
      ><ElSlider
        v-if="typeof beat.level === 'number'"
        :model-value="beat.level * 100"
        @update:model-value="set({ level: Number($event) / 100 })"
    /></label>
    <div class="two">
      <label class="field"
        >Look
        <PickField
          data-test="look"
          :model-value="String(beat.look ?? '')"
          @update:model-value="setLook($event)"
        >
          <ElOption v-for="(name, id) in LOOKS" :key="id" :value="id" :label="name" />
        </PickField>
      </label>
      <label v-if="beat.look && beat.look !== 'steady'" class="field"
        >Cycle time<DurationField
          :model-value="number('period_s', 2)"
          :least="0.2"
          @update:model-value="set({ period_s: $event })"
      /></label>
    </div>
    <BeatFades />
  </div>
</template>
