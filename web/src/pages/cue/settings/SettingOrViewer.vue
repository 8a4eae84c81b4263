<script setup lang="ts">
/** The value of a setting: chosen here, or from the viewer's text, which the door then asks for. */
import { ElCheckbox } from 'element-plus'
import { computed } from 'vue'
import type { SettingKind } from '@/composables/useGear'
import { firstValue } from '@/logic/settings'
import SettingField, { type SettingValue } from '@/parts/SettingField.vue'
import { useDraft } from '../draft'

const props = defineProps<{ name: string; kind?: SettingKind | undefined; modelValue: SettingValue }>()
const emit = defineEmits<{ 'update:modelValue': [value: SettingValue] }>()
const draft = useDraft()
const rule = computed(() => draft.cue.value?.door.text?.kind)
const fromViewer = computed(() => /^\{\{\w+\}\}$/.test(String(props.modelValue)))
/** The part of the viewer's text that fits the setting: its template, and the door's rule for it. */
const WANTED = { colour: 'colour', number: 'number', choice: 'choice', text: 'any' } as const
const wanted = computed(() => (props.kind && props.kind.type !== 'bool' ? props.kind.type : null))
const asked = computed(() => (wanted.value ? WANTED[wanted.value] : null))

/** Takes the value from the viewer's text, and has the door ask for it. */
function take(on: boolean): void {
  if (!on || !wanted.value || !asked.value) {
    emit('update:modelValue', firstValue(props.kind))
    return
  }
  emit('update:modelValue', `{{${wanted.value}}}`)
  const cue = draft.cue.value
  if (!cue || cue.door.text?.kind === asked.value) return
  const range = asked.value === 'number' ? [props.kind?.min ?? 0, props.kind?.max ?? 100] : null
  cue.door.text = {
    need: true,
    kind: asked.value,
    min: null,
    max: 200,
    too_long: 'refuse',
    choices: asked.value === 'choice' ? [...(props.kind?.choices ?? [])] : [],
    range: range && [Math.round(range[0] ?? 0), Math.round(range[1] ?? 100)],
  }
}
</script>

<template>
  <div class="stack">
    <ElCheckbox v-if="wanted" :model-value="fromViewer" @update:model-value="take(Boolean($event))"
      >the viewer’s {{ wanted }}</ElCheckbox
    >
    <p v-if="fromViewer && wanted && rule !== asked" class="wrong small">
      The door doesn’t ask for a {{ wanted }}.
    </p>
    <label v-if="!fromViewer" class="field"
      >{{ name
      }}<SettingField
        :kind="kind"
        :model-value="modelValue"
        @update:model-value="emit('update:modelValue', $event)"
    /></label>
  </div>
</template>

<style scoped>
.wrong {
  color: var(--berry);
  margin: 0;
}
</style>
