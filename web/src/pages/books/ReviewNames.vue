<script setup lang="ts">
/** Names of other gear that are missing here, and what is used instead. */
import type { Review } from '@/composables/useReview'
import type { Choice } from '@/parts/choice'
import PickField from '@/parts/PickField.vue'

type Lost = Review['names'][number]
defineProps<{ names: Review['names'] }>()
const emit = defineEmits<{ call: [key: string, to: string] }>()

function choices(lost: Lost): Choice[] {
  const rest = lost.choices.filter((name) => !lost.near.includes(name))
  const named = (name: string): Choice => ({ value: name, name: name === 'all' ? 'all lamps' : name })
  const none = lost.what === 'lamp' ? [] : [{ value: '', name: `leave “${lost.name}”` }]
  return [...lost.near, ...rest].map(named).concat(none)
}
</script>

<template>
  <section class="card" aria-label="Missing names" data-test="names">
    <div class="card-title"><h2>Missing names</h2></div>
    <ul>
      <li v-for="lost in names" :key="lost.key">
        <span
          ><span class="soft">{{ lost.what }}</span> <strong>{{ lost.name }}</strong></span
        >
        <PickField
          :model-value="lost.to"
          :choices="choices(lost)"
          :aria-label="`Use instead of ${lost.name}`"
          @update:model-value="emit('call', lost.key, String($event))"
        />
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  display: grid;
  gap: 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 10px;
  align-items: center;
  overflow-wrap: anywhere;
}
</style>
