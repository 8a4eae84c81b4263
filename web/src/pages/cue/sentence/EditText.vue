<script setup lang="ts">
import { ElCheckbox, ElOption } from 'element-plus'
import { computed } from 'vue'
import { useDraft } from '../draft'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const { cue } = useDraft()

const choices = computed(() => cue.value?.door.text?.choices ?? [])

function setChoices(text: string): void {
  const rule = cue.value?.door.text
  if (!rule) return
  rule.choices = [...new Set(text.split('\n').map((line) => line.trim()))].filter(Boolean)
  if (rule.choices.length) rule.kind = 'choice'
  else if (rule.kind === 'choice') rule.kind = 'any'
}

/** Both bounds belong together: a missing one is the furthest possible. */
function setRange(i: number, value: number | null): void {
  const rule = cue.value?.door.text
  if (!rule) return
  const ends = [...(rule.range ?? [0, 100])]
  if (value === null) {
    rule.range = null
    return
  }
  ends[i] = value
  rule.range = [Math.min(ends[0] ?? 0, ends[1] ?? 0), Math.max(ends[0] ?? 0, ends[1] ?? 0)]
}

function setNumber(key: 'min' | 'max', value: number | null): void {
  const rule = cue.value?.door.text
  if (rule) rule[key] = value
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
    <h2>Viewer’s text</h2>
    <ElCheckbox :model-value="Boolean(cue.door.text)" @update:model-value="(on) => want(Boolean(on))"
      >Ask for a text</ElCheckbox
    >
    <template v-if="cue.door.text">
      <ElCheckbox v-model="cue.door.text.need">Required</ElCheckbox>
      <label class="field">
        Type
        <PickField v-model="cue.door.text.kind">
          <ElOption value="any" label="any text" />
          <ElOption value="colour" label="a colour" />
          <ElOption value="number" label="a whole number" />
          <ElOption value="choice" :disabled="!choices.length" label="one of the choices" />
        </PickField>
      </label>
      <label class="field">
        Choices, one per line
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
          }}<NumberField
            :model-value="cue.door.text.range?.[i]"
            hint="any"
            @update:model-value="setRange(i, $event)"
            optional
            whole
            @clear="setRange(i, null)"
        /></label>
      </div>
      <div v-if="cue.door.text.kind === 'any'" class="row">
        <label class="field grow"
          >Minimum length<NumberField
            :least="0"
            hint="0"
            :model-value="cue.door.text.min"
            @update:model-value="setNumber('min', $event)"
            optional
            whole
            @clear="setNumber('min', null)"
        /></label>
        <label class="field grow"
          >Maximum length<NumberField
            :least="1"
            hint="no limit"
            :model-value="cue.door.text.max"
            @update:model-value="setNumber('max', $event)"
            optional
            whole
            @clear="setNumber('max', null)"
        /></label>
        <label class="field grow">
          Longer messages
          <PickField v-model="cue.door.text.too_long">
            <ElOption value="refuse" label="are refused" />
            <ElOption value="cut" label="are shortened" />
          </PickField>
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
