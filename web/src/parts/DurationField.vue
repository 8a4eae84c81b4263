<script setup lang="ts">
/** A length typed as `20`, `20s`, `1.5m`, `250ms` or `1:30`, shown with its unit. */
import { ref, watch } from 'vue'
import { readDuration, sayDuration } from '@/logic/duration'

const props = withDefaults(
  defineProps<{ modelValue: number | null; least?: number; hint?: string; label?: string }>(),
  {
    least: 0,
    hint: '',
    label: '',
  },
)
const emit = defineEmits<{ 'update:modelValue': [seconds: number] }>()
const text = ref('')
const wrong = ref('')

function shown(): string {
  return props.modelValue === null ? '' : sayDuration(props.modelValue)
}
watch(
  () => props.modelValue,
  () => (text.value = shown()),
  { immediate: true },
)

function take(): void {
  const seconds = readDuration(text.value)
  if (seconds === null) wrong.value = 'Write it as 20, 20s, 1.5m, 250ms or 1:30.'
  else if (seconds < props.least) wrong.value = `At least ${sayDuration(props.least)}.`
  else {
    wrong.value = ''
    emit('update:modelValue', seconds)
    text.value = sayDuration(seconds)
    return
  }
}
</script>

<template>
  <span class="duration">
    <input
      v-model="text"
      class="well"
      :class="{ wrong }"
      :placeholder="hint"
      :aria-label="label || undefined"
      @change="take"
      @keydown.enter="take"
      @focus="($event.target as HTMLInputElement).select()"
    />
    <span v-if="wrong" class="small word">{{ wrong }}</span>
  </span>
</template>

<style scoped>
.duration {
  display: grid;
}

.wrong {
  border-color: var(--berry);
}

.word {
  color: var(--berry);
}
</style>
