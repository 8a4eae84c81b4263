<script setup lang="ts">
import { ElCheckbox } from 'element-plus'
import { computed } from 'vue'
import { useDraft } from '../draft'

const { cue } = useDraft()

const choices = computed(() => cue.value?.door.text?.choices ?? [])

function setChoices(text: string): void {
  const rule = cue.value?.door.text
  if (!rule) return
  rule.choices = [...new Set(text.split('\n').map((line) => line.trim()))].filter(Boolean)
  if (rule.choices.length) rule.kind = 'choice'
  else if (rule.kind === 'choice') rule.kind = 'any'
}

/** Both ends belong together: one that is not given takes what is furthest. */
function setRange(i: number, value: string): void {
  const rule = cue.value?.door.text
  if (!rule) return
  const ends = [...(rule.range ?? [0, 100])]
  if (!value.trim()) {
    rule.range = null
    return
  }
  ends[i] = Math.round(Number(value))
  rule.range = [Math.min(ends[0] ?? 0, ends[1] ?? 0), Math.max(ends[0] ?? 0, ends[1] ?? 0)]
}

function setNumber(key: 'min' | 'max', value: string): void {
  const rule = cue.value?.door.text
  const number = Math.floor(Number(value))
  if (rule) rule[key] = value.trim() && number >= 0 ? number : null
}

function want(on: boolean): void {
  if (!cue.value) return
  cue.value.door.text = on
    ? { need: true, kind: 'any', min: null, max: 200, too_long: 'refuse', choices: [], range: null }
    : null
}
</script>

<template>
  <div v-if="cue" class="edit">
    <h2>The viewer’s text</h2>
    <ElCheckbox :model-value="Boolean(cue.door.text)" @update:model-value="(on) => want(Boolean(on))"
      >Ask for a text</ElCheckbox
    >
    <template v-if="cue.door.text">
      <ElCheckbox v-model="cue.door.text.need">Without one nobody comes in</ElCheckbox>
      <label class="field">
        It must be
        <select v-model="cue.door.text.kind" class="well">
          <option value="any">any text</option>
          <option value="colour">a colour</option>
          <option value="number">a whole number</option>
          <option value="choice" :disabled="!choices.length">one of the choices</option>
        </select>
      </label>
      <label class="field">
        Choices, one a line
        <textarea
          class="well"
          rows="3"
          :value="cue.door.text.choices?.join('\n')"
          placeholder="tea&#10;cocoa"
          @change="setChoices(($event.target as HTMLTextAreaElement).value)"
        ></textarea>
      </label>
      <div v-if="cue.door.text.kind === 'number'" class="row">
        <label v-for="(name, i) in ['Least', 'Most']" :key="name" class="field grow"
          >{{ name
          }}<input
            class="well"
            type="number"
            :value="cue.door.text.range?.[i] ?? ''"
            placeholder="any"
            @change="setRange(i, ($event.target as HTMLInputElement).value)"
        /></label>
      </div>
      <div v-if="cue.door.text.kind === 'any'" class="row">
        <label class="field grow"
          >At least characters<input
            class="well"
            type="number"
            min="0"
            placeholder="0"
            :value="cue.door.text.min"
            @change="setNumber('min', ($event.target as HTMLInputElement).value)"
        /></label>
        <label class="field grow"
          >At most characters<input
            class="well"
            type="number"
            min="1"
            placeholder="no limit"
            :value="cue.door.text.max"
            @change="setNumber('max', ($event.target as HTMLInputElement).value)"
        /></label>
        <label class="field grow">
          Longer ones
          <select v-model="cue.door.text.too_long" class="well">
            <option value="refuse">are turned away</option>
            <option value="cut">are cut</option>
          </select>
        </label>
      </div>
    </template>
  </div>
</template>

<style scoped>
.edit {
  display: grid;
  gap: 8px;
}
</style>
