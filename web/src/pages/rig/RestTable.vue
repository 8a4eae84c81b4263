<script setup lang="ts">
/** The rest value of every property of a piece of gear, and its current value. */
import type { GearState } from '@/composables/useGear'
import { sayValue } from '@/logic/words'
import RestField from './RestField.vue'

defineProps<{ gear: GearState }>()
</script>

<template>
  <table class="small">
    <thead>
      <tr>
        <th>Property</th>
        <th>At rest</th>
        <th>Shows now</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="p in gear.properties" :key="p.path">
        <td>{{ p.name }}</td>
        <td><RestField :path="p.path" :name="`${p.name} at rest`" :value="p.rest" /></td>
        <td :class="{ held: p.held }">{{ sayValue(p.actual) }}{{ p.held ? ' (held)' : '' }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  border-collapse: collapse;
  width: 100%;
}

th {
  text-align: left;
  color: var(--soft);
  font-weight: 400;
}

td {
  padding: 2px 10px 2px 0;
  border-top: 1px solid var(--line);
}

.held {
  color: var(--marmalade);
}
</style>
