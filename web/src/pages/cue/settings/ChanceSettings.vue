<script setup lang="ts">
/** Dice or a drum, and its outcomes in the order in which they are tested. */
import type { BeatFields } from '@/api/client'
import { computed } from 'vue'
import { freshOutcome, type Outcome } from '@/logic/beats'
import { freeId } from '@/logic/ids'
import { useDraft } from '../draft'
import { ElOption } from 'element-plus'
import PickField from '@/parts/PickField.vue'
import DurationField from '@/parts/DurationField.vue'
import NumberField from '@/parts/NumberField.vue'

const draft = useDraft()
const beat = computed(() => draft.chosenBeat.value)
const dice = computed(() => beat.value?.dice)
const outcomes = computed(() => beat.value?.outcomes ?? [])
/** The possible results of a roll: the rule, and how its numbers compare. */
const RULES: Record<string, { name: string; fields: Partial<Outcome> }> = {
  all_equal: { name: 'all alike', fields: { when: 'all_equal', number: null, numbers: [] } },
  pair: { name: 'at least a pair', fields: { when: 'pair', number: null, numbers: [] } },
  'sum>=': { name: 'sum at least', fields: { when: 'sum', is: '>=', number: 10, numbers: [] } },
  'sum=': { name: 'sum is', fields: { when: 'sum', is: '=', number: 7, numbers: [] } },
  'sum<=': { name: 'sum at most', fields: { when: 'sum', is: '<=', number: 4, numbers: [] } },
  sumin: { name: 'sum is one of', fields: { when: 'sum', is: 'in', number: null, numbers: [7, 11] } },
  faces: { name: 'these faces', fields: { when: 'faces', number: null, numbers: [6, 6] } },
  any: { name: 'anything', fields: { when: 'any', number: null, numbers: [] } },
}

const ruleOf = (outcome: Outcome): string => (outcome.when === 'sum' ? `sum${outcome.is}` : outcome.when)

function setNumbers(index: number, text: string): void {
  const numbers = (text.match(/-?\d+/g) ?? []).map(Number)
  if (numbers.length) change(index, { numbers })
}

function set(fields: BeatFields): void {
  if (beat.value) draft.change(beat.value.id, fields)
}

function change(index: number, fields: Partial<Outcome>): void {
  set({ outcomes: outcomes.value.map((o, i) => (i === index ? { ...o, ...fields } : o)) })
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
      <label class="field"
        >Duration<DurationField
          :model-value="Number(beat?.spin_s ?? 2)"
          :least="0.1"
          data-test="spin"
          @update:model-value="set({ spin_s: $event })"
      /></label>
    </div>
    <div v-for="(outcome, i) in outcomes" :key="outcome.id" class="outcome">
      <input
        class="well grow"
        :value="outcome.name"
        :placeholder="outcome.id"
        aria-label="Outcome name"
        @change="change(i, { name: ($event.target as HTMLInputElement).value })"
      />
      <PickField
        v-if="dice"
        class="when"
        :model-value="ruleOf(outcome)"
        aria-label="When"
        data-test="outcome-when"
        @update:model-value="change(i, { ...RULES[$event]?.fields })"
      >
        <ElOption v-for="(rule, id) in RULES" :key="id" :value="id" :label="rule.name" />
      </PickField>
      <input
        v-if="dice && (outcome.when === 'faces' || outcome.is === 'in')"
        class="well number"
        :value="outcome.numbers.join(' ')"
        aria-label="Numbers"
        data-test="outcome-numbers"
        @change="setNumbers(i, ($event.target as HTMLInputElement).value)"
      />
      <NumberField
        v-else-if="dice && outcome.when === 'sum'"
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
        aria-label="Remove"
        :disabled="outcomes.length < 2"
        @click="set({ outcomes: outcomes.filter((o) => o.id !== outcome.id) })"
      >
        ✕
      </button>
    </div>
    <button class="btn tiny" @click="add">Add outcome</button>
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
