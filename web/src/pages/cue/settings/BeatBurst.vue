<script setup lang="ts">
/** A burst: how many pieces, of which shape, and whether they bounce. */
import type { BeatFields } from '@/api/client'
import { useFields } from './useFields'

const { beat, set, number } = useFields()
</script>

<template>
  <div v-if="beat" class="two">
    <label class="field"
      >Pieces<input
        class="well"
        type="number"
        min="1"
        max="400"
        :value="number('count', 60)"
        @change="set({ count: Number(($event.target as HTMLInputElement).value) })"
    /></label>
    <label class="field"
      >Shape<select
        class="well"
        :value="beat.shape ?? 'ticket'"
        @change="set({ shape: ($event.target as HTMLSelectElement).value as BeatFields['shape'] })"
      >
        <option v-for="shape in ['ticket', 'spark', 'leaf', 'dot']" :key="shape">{{ shape }}</option>
      </select></label
    >
    <label class="field"
      >Bounce<input
        class="well"
        type="number"
        min="0"
        max="1"
        step="0.1"
        :value="number('bounce', 0)"
        @change="set({ bounce: Number(($event.target as HTMLInputElement).value) })"
    /></label>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: 1fr;
  gap: 8px;
  align-items: end;
}
</style>
