<script setup lang="ts">
/** Which viewer the chosen beat is for, in a cue that draws one. */
import { ElOption } from 'element-plus'
import { computed } from 'vue'
import { startAfter } from '@/logic/beats'
import PickField from '@/parts/PickField.vue'
import { useDraft } from '../draft'

const draft = useDraft()
const beat = draft.chosenBeat
const draw = computed(() => draft.beats.value.find((one) => one.kind === 'draw' && one.id !== beat.value?.id))

/** What is for the drawn viewer begins once they are drawn, unless it was moved already. */
function set(whose: 'caller' | 'drawn'): void {
  if (!beat.value) return
  draft.change(beat.value.id, { whose, ...(whose === 'drawn' ? startAfter(beat.value, draw.value) : {}) })
}
</script>

<template>
  <label v-if="beat && beat.kind !== 'draw' && (draw || beat.whose === 'drawn')" class="field">
    For
    <PickField :model-value="beat.whose" data-test="whose" @update:model-value="set($event)">
      <ElOption value="caller" label="whoever called" />
      <ElOption value="drawn" label="the drawn viewer" />
    </PickField>
  </label>
</template>
