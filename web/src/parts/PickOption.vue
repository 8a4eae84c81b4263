<script setup lang="ts">
/** One row of a `PickField`'s list. */
import { ElOption } from 'element-plus'
import type { Choice } from './choice'
import PickFace from './PickFace.vue'

defineProps<{ choice: Choice }>()
</script>

<template>
  <ElOption :value="choice.value" :label="choice.name" :disabled="choice.off">
    <PickFace :choice="choice" />
  </ElOption>
</template>
