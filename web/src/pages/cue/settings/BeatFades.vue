<script setup lang="ts">
/** How long the chosen beat takes to fade in, and to go back. */
import DurationField from '@/parts/DurationField.vue'
import { useFields } from './useFields'

defineProps<{ back?: string }>()
const { set, number } = useFields()
</script>

<template>
  <div class="two">
    <label class="field"
      >Fade in<DurationField
        :model-value="number('fade_in_s', 0)"
        @update:model-value="set({ fade_in_s: $event })"
    /></label>
    <label class="field"
      >{{ back ?? 'Fade out'
      }}<DurationField
        :model-value="number('fade_out_s', 0)"
        @update:model-value="set({ fade_out_s: $event })"
    /></label>
  </div>
</template>
