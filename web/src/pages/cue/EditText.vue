<script setup lang="ts">
import { ElCheckbox } from 'element-plus'
import { useDraft } from './draft'

const { cue } = useDraft()

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
        </select>
      </label>
      <div class="row">
        <label class="field grow"
          >At most characters<input v-model.number="cue.door.text.max" class="well" type="number" min="1"
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
