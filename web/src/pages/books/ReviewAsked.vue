<script setup lang="ts">
/** What the import could do beyond the overlay: off until you allow it, one by one or all at once. */
import { ElSwitch } from 'element-plus'
import { computed } from 'vue'
import type { Review } from '@/composables/useReview'

const props = defineProps<{ asked: Review['asked'] }>()
const emit = defineEmits<{ allow: [keys: string[], on: boolean] }>()
const keys = computed(() => props.asked.map((one) => one.key))
const allowed = computed(() => props.asked.filter((one) => one.allowed).length)
/** From this many names on, only the number is shown. */
const FEW = 2
const by = (one: Review['asked'][number]): string =>
  one.by.length > FEW ? `${one.by.length} of them` : one.by.join(' and ')
</script>

<template>
  <section class="card" aria-label="Permissions" data-test="asked">
    <div class="card-title">
      <h2>Permissions</h2>
      <span class="grow"></span>
      <button class="btn tiny" data-test="allow-all" @click="emit('allow', keys, allowed < keys.length)">
        {{ allowed < keys.length ? 'Allow all' : 'Allow none' }}
      </button>
    </div>
    <p class="small soft">Anything you don’t allow is imported switched off.</p>
    <ul>
      <li v-for="one in asked" :key="one.key">
        <ElSwitch
          size="small"
          :model-value="one.allowed"
          :aria-label="`Allow: ${one.what}`"
          @update:model-value="emit('allow', [one.key], Boolean($event))"
        />
        <span
          ><strong>{{ by(one) }}</strong> {{ one.what }}</span
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  display: grid;
  gap: 6px;
  max-height: 340px;
  overflow: auto;
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 10px;
  align-items: start;
  overflow-wrap: anywhere;
}

p {
  margin: 0;
}
</style>
