<script setup lang="ts">
/** Counts: what feeds each, its value, and its goal. */
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { idOf } from '@/logic/ids'
import CountCard from './CountCard.vue'

const book = useBook()
const name = ref('')
const now = ref<Record<string, number>>({})
const counts = computed(() => book.book?.counts ?? [])

async function load(): Promise<void> {
  const rows = await got(api.GET('/api/counts')).catch(() => [])
  now.value = Object.fromEntries(rows.map((row) => [row.id, row.now]))
}
useIntervalFn(() => void load(), 1000, { immediateCallback: true })
watch(
  () => book.version,
  () => void load(),
)

async function add(): Promise<void> {
  const wanted = name.value.trim()
  if (!wanted) return
  const id = idOf(
    wanted,
    counts.value.map((one) => one.id),
  )
  await attempt(() => book.put('counts', { id, name: wanted, goal: null, per: 'stream', feeds: [] }))
  name.value = ''
}
</script>

<template>
  <div class="counts">
    <div class="row wrap">
      <h1>Counts</h1>
      <span class="grow"></span>
      <form class="row" @submit.prevent="add">
        <input
          v-model="name"
          class="well"
          maxlength="200"
          placeholder="New count"
          aria-label="New count"
          data-test="count-name"
        />
        <button class="btn main" :disabled="!name.trim()" data-test="count-add">Add</button>
      </form>
    </div>
    <p class="soft small intro">
      A count goes up by itself or by a cue. A bar shows it on the overlay. It can call a cue at a value,
      every few steps, or when it reaches its goal.
    </p>
    <CountCard v-for="one in counts" :key="one.id" :count="one" :now="now[one.id] ?? 0" @set="load" />
    <p v-if="!counts.length" class="empty soft">
      No counts yet. Try “Cups of tea”, fed by tips, with a goal of 100.
    </p>
  </div>
</template>

<style scoped>
.counts {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  align-content: start;
  width: 100%;
  max-width: 1240px;
  margin: 0 auto;
}

.wrap {
  flex-wrap: wrap;
}

.intro {
  margin: 0;
}
</style>
