<script setup lang="ts">
/** What stands out in a night, each with a remedy; and the assumptions. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'

defineProps<{ standouts: Schemas['StandoutOut'][]; assumed: string[] }>()
const book = useBook()
const cues = computed(() => new Set((book.book?.cues ?? []).map((cue) => cue.id)))

/** Where to fix it. */
function mendAt(of: string): string | null {
  const [kind, id] = of.split('/')
  if (kind === 'cues' && cues.value.has(id ?? '')) return `/cues/${id}`
  return kind === 'rewards' ? '/rewards' : kind === 'lanes' ? '/cues' : null
}
</script>

<template>
  <section class="card" aria-label="What stands out">
    <div class="card-title"><h2>What stands out</h2></div>
    <p v-if="!standouts.length" class="soft">Nothing unusual.</p>
    <ul data-test="standouts">
      <li v-for="one in standouts" :key="one.rule + one.of">
        <RouterLink v-if="mendAt(one.of)" :to="mendAt(one.of)!">{{ one.what }}</RouterLink>
        <b v-else>{{ one.what }}</b>
        <div class="soft small">{{ one.mend }}</div>
      </li>
    </ul>
    <template v-if="assumed.length">
      <h3>Assumptions</h3>
      <ul class="soft small">
        <li v-for="line in assumed" :key="line">{{ line }}</li>
      </ul>
    </template>
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

h3 {
  margin: 12px 0 4px;
  font-size: 15px;
}
</style>
