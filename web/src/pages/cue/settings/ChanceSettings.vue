<script setup lang="ts">
/** Dice or a drum, and its outcomes in the order in which they are tested. */
import type { BeatFields } from '@/api/client'
import { computed } from 'vue'
import { freeId, freshOutcome, type Outcome } from '@/logic/beats'
import { useDraft } from '../draft'

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
        <select
          class="well"
          :value="dice ? 'dice' : 'drum'"
          @change="setKind(($event.target as HTMLSelectElement).value)"
        >
          <option value="dice">dice</option>
          <option value="drum">a drum</option>
        </select>
      </label>
      <template v-if="dice">
        <label class="field"
          >Dice<input
            class="well"
            type="number"
            min="1"
            max="8"
            :value="dice.count"
            @change="set({ dice: { ...dice, count: Number(($event.target as HTMLInputElement).value) } })"
        /></label>
        <label class="field"
          >Sides<input
            class="well"
            type="number"
            min="2"
            max="100"
            :value="dice.sides"
            @change="set({ dice: { ...dice, sides: Number(($event.target as HTMLInputElement).value) } })"
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
      <select
        v-if="dice"
        class="well when"
        :value="outcome.when"
        aria-label="When"
        @change="setWhen(i, ($event.target as HTMLSelectElement).value as Outcome['when'])"
      >
        <option v-for="(name, id) in WHEN" :key="id" :value="id">{{ name }}</option>
      </select>
      <input
        v-if="dice && outcome.when === 'sum'"
        class="well number"
        type="number"
        :value="outcome.number"
        aria-label="Sum"
        @change="change(i, { number: Number(($event.target as HTMLInputElement).value) })"
      />
      <input
        v-if="!dice"
        class="well number"
        type="number"
        min="0"
        :value="outcome.weight"
        aria-label="Weight"
        @change="change(i, { weight: Number(($event.target as HTMLInputElement).value) })"
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
  width: 120px;
}

.number {
  width: 62px;
}
</style>
