<script setup lang="ts">
/** Dice or a drum, and its outcomes in the order in which they are tested. */
import type { BeatFields } from '@/api/client'
import { computed } from 'vue'
import { freeId, freshOutcome, type Outcome } from '@/logic/beats'
import { useDraft } from '../draft'
import { ElOption } from 'element-plus'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const draft = useDraft()
const beat = computed(() => draft.chosenBeat.value)
const dice = computed(() => beat.value?.dice)
const outcomes = computed(() => beat.value?.outcomes ?? [])
const WHEN = { all_equal: 'all alike', pair: 'at least a pair', sum: 'a sum of at least', any: 'anything' }

function set(fields: BeatFields): void {
  if (beat.value) draft.change(beat.value.id, fields)
}

function change(index: number, fields: Partial<Outcome>): void {
  set({ outcomes: outcomes.value.map((o, i) => (i === index ? { ...o, ...fields } : o)) })
}

function setWhen(index: number, when: Outcome['when']): void {
  change(index, when === 'sum' ? { when, is: '>=', number: 10 } : { when, number: null })
}

function add(): void {
  const id = freeId('outcome', new Set(outcomes.value.map((o) => o.id)))
  set({ outcomes: [...outcomes.value, freshOutcome(id, '')] })
}

function setKind(kind: string): void {
  set({ dice: kind === 'dice' ? { count: 3, sides: 6 } : null })
}
</script>

<template>
  <div class="chance">
    <div class="two">
      <label class="field">
        As
        <PickField :model-value="dice ? 'dice' : 'drum'" @update:model-value="setKind($event)">
          <ElOption value="dice" label="dice" />
          <ElOption value="drum" label="a drum" />
        </PickField>
      </label>
      <template v-if="dice">
        <label class="field"
          >Dice<NumberField
            :least="1"
            :most="8"
            :model-value="dice.count"
            @update:model-value="set({ dice: { ...dice, count: $event } })"
            whole
        /></label>
        <label class="field"
          >Sides<NumberField
            :least="2"
            :most="100"
            :model-value="dice.sides"
            @update:model-value="set({ dice: { ...dice, sides: $event } })"
            whole
        /></label>
      </template>
    </div>
    <div v-for="(outcome, i) in outcomes" :key="outcome.id" class="outcome">
      <input
        class="well grow"
        :value="outcome.name"
        :placeholder="outcome.id"
        aria-label="Name of the outcome"
        @change="change(i, { name: ($event.target as HTMLInputElement).value })"
      />
      <PickField
        v-if="dice"
        class="when"
        :model-value="outcome.when"
        aria-label="When"
        @update:model-value="setWhen(i, $event)"
      >
        <ElOption v-for="(name, id) in WHEN" :key="id" :value="id" :label="name" />
      </PickField>
      <NumberField
        v-if="dice && outcome.when === 'sum'"
        class="number"
        :model-value="outcome.number"
        aria-label="Sum"
        @update:model-value="change(i, { number: $event })"
        narrow
        whole
      />
      <NumberField
        v-if="!dice"
        class="number"
        :least="0"
        :model-value="outcome.weight"
        aria-label="Weight"
        @update:model-value="change(i, { weight: $event })"
        narrow
      />
      <button
        class="btn bare tiny"
        aria-label="Take out"
        :disabled="outcomes.length < 2"
        @click="set({ outcomes: outcomes.filter((o) => o.id !== outcome.id) })"
      >
        ✕
      </button>
    </div>
    <button class="btn tiny" @click="add">Another outcome</button>
  </div>
</template>

<style scoped>
.chance,
.two {
  display: grid;
  gap: 8px;
}

.two {
  grid-auto-flow: column;
  grid-auto-columns: 1fr;
}

.outcome {
  display: flex;
  gap: 4px;
}

.when {
  width: 136px;
}

.number {
  width: 62px;
}
</style>
