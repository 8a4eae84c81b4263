<script setup lang="ts">
/** A name of something on the gear: chosen from what there is; one that is not there is kept and marked. */
import { computed } from 'vue'

const props = defineProps<{ label: string; modelValue: string; known: readonly string[] }>()
const emit = defineEmits<{ 'update:modelValue': [name: string] }>()
const plain = (name: string): string => name.trim().toLowerCase()
const there = computed(() => props.known.find((name) => plain(name) === plain(props.modelValue)))
</script>

<template>
  <label class="field">
    {{ label }}
    <select
      v-if="known.length"
      class="well"
      :class="{ lost: !there }"
      :value="there ?? modelValue"
      :data-test="`name-${label.toLowerCase()}`"
      @change="emit('update:modelValue', ($event.target as HTMLSelectElement).value)"
    >
      <option v-if="!there" :value="modelValue">{{ modelValue }} (not there)</option>
      <option v-for="name in known" :key="name" :value="name">{{ name }}</option>
    </select>
    <input
      v-else
      class="well"
      :value="modelValue"
      @change="emit('update:modelValue', ($event.target as HTMLInputElement).value)"
    />
  </label>
</template>

<style scoped>
.lost {
  border-color: var(--berry);
}
</style>
