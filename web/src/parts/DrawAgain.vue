<script setup lang="ts">
/** A draw of viewers, drawn once more: who was in it, how likely each was, and what the seed gives. */
import { computed, ref } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { attempt } from '@/composables/useSay'

const props = defineProps<{ run: string; beat: string }>()
const MOST = 20
const draw = ref<Schemas['KeptDraw'] | null>(null)
const whole = computed(() => (draw.value?.those ?? []).reduce((sum, one) => sum + one.weight, 0))

async function look(): Promise<void> {
  const found = await got(api.GET('/api/draws', { params: { query: { line: props.run } } }))
  draw.value = found.find((one) => one.beat === props.beat) ?? null
}
</script>

<template>
  <button v-if="!draw" class="btn tiny" data-test="draw-again" @click="attempt(look)">Draw again</button>
  <div v-else class="again" data-test="drawn-again">
    <p>
      {{ draw.holds ? 'The same viewer comes out.' : 'Somebody else comes out.' }}
      <span class="soft">The seed {{ draw.seed }} gives {{ draw.number.toFixed(6) }}.</span>
    </p>
    <ul>
      <li v-for="one in draw.those.slice(0, MOST)" :key="one.viewer">
        <strong v-if="one.viewer === draw.drawn">{{ one.name || 'forgotten' }}</strong>
        <span v-else>{{ one.name || 'forgotten' }}</span>
        <span class="soft">{{ ((one.weight / whole) * 100).toFixed(1) }} %</span>
      </li>
    </ul>
    <p v-if="draw.those.length > MOST" class="soft">and {{ draw.those.length - MOST }} more</p>
  </div>
</template>

<style scoped>
.again p {
  margin: 4px 0;
  overflow-wrap: anywhere;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 2px 12px;
}

li {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}
</style>
