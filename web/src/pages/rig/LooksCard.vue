<script setup lang="ts">
/** Resting looks: named sets of rest values that are applied at once. */
import { ref } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useGear } from '@/composables/useGear'
import { attempt, say } from '@/composables/useSay'

const book = useBook()
const gear = useGear()
const name = ref('')

async function make(): Promise<void> {
  if (!name.value.trim()) return
  await attempt(async () => {
    await book.edit(() => got(api.POST('/api/looks', { body: { name: name.value.trim() } })))
    name.value = ''
  })
}

async function take(look_id: string): Promise<void> {
  await attempt(async () => {
    say((await got(api.POST('/api/looks/{look_id}/take', { params: { path: { look_id } } }))).what, 'fine')
    await gear.load()
  })
}
</script>

<template>
  <section class="card looks">
    <div class="row">
      <h2>Resting looks</h2>
      <span class="soft small grow">Named sets of rest values.</span>
      <form class="row" @submit.prevent="make">
        <input v-model="name" class="well slim" placeholder="Save current rest as…" aria-label="Look name" />
        <button class="btn tiny" :disabled="!name.trim()">Save</button>
      </form>
    </div>
    <ul v-if="book.book?.looks.length">
      <li v-for="look in book.book.looks" :key="look.id" class="row">
        <strong>{{ look.name }}</strong>
        <span class="soft small grow">{{ Object.keys(look.values).length }} rest values</span>
        <button class="btn tiny" :data-test="`look-${look.id}`" @click="take(look.id)">Apply</button>
        <button class="btn tiny danger" @click="attempt(() => book.remove('looks', look.id))">Remove</button>
      </li>
    </ul>
    <p v-else class="soft small">None yet. Set your gear by hand, then save it under a name.</p>
  </section>
</template>

<style scoped>
.looks {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 4px;
}

.slim {
  width: 220px;
  min-height: 30px;
}
</style>
