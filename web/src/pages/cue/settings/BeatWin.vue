<script setup lang="ts">
/** What the viewer of the chosen beat wins. */
import { useFields } from './useFields'

const { beat, set, text } = useFields()
</script>

<template>
  <label v-if="beat" class="field"
    >They win<input
      class="well"
      :value="text('what')"
      maxlength="500"
      data-test="win-what"
      @change="set({ what: ($event.target as HTMLInputElement).value.trim() || 'a prize' })"
  /></label>
</template>
