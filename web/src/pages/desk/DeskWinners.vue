<script setup lang="ts">
/** Winners who still wait for what they won, to be ticked off. */
import { computed } from 'vue'
import { useWinners } from '@/composables/useWinners'
import { attempt } from '@/composables/useSay'
import ViewerFace from '@/parts/viewers/ViewerFace.vue'
import ViewerName from '@/parts/viewers/ViewerName.vue'

const SHOWN = 2
const winners = useWinners(SHOWN)
const rows = computed(() => winners.rows.value.filter((one) => one.given === null).slice(0, SHOWN))
const waiting = winners.waiting
</script>

<template>
  <section v-if="rows.length" class="card winners" data-test="winners">
    <div class="card-title">
      <h2 class="grow">Winners</h2>
      <RouterLink class="small" to="/viewers#winners">{{
        waiting > rows.length ? `${waiting} waiting` : 'All winners'
      }}</RouterLink>
    </div>
    <ul>
      <li v-for="one in rows" :key="`${one.run}/${one.beat}`">
        <ViewerFace v-if="one.viewer" :id="one.viewer" :size="30" />
        <span class="grow">
          <strong><ViewerName :id="one.viewer" :name="one.name || 'forgotten'" /></strong>
          <span class="small what">{{ one.what }}</span>
        </span>
        <button class="btn tiny" @click="attempt(() => winners.give(one, true))">Tick off</button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.winners {
  padding-block: 10px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: flex;
  align-items: center;
  gap: 8px;
  padding-block: 4px;
  border-top: 1px solid var(--line);
}

.what {
  display: block;
  overflow-wrap: anywhere;
}
</style>
