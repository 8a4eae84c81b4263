<script setup lang="ts">
import { ref } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { ENTRIES } from './entries'
import { useDraft } from '../draft'

const book = useBook()
const { cue } = useDraft()
const name = ref('')

/** A new lane, with this cue in it. */
async function newLane(): Promise<void> {
  const wanted = name.value.trim()
  if (!wanted || !cue.value) return
  await attempt(async () => {
    const made = await book.edit(() => got(api.POST('/api/lanes', { body: { name: wanted } })))
    if (cue.value) cue.value.lane = made.lane
    name.value = ''
  })
}

/** One picture line for each entry: blocks of this cue (filled) and of others (outlined) along the lane. */
const PICTURES: Record<string, { x: number; w: number; y: number; own: boolean }[]> = {
  queue: [
    { x: 2, w: 30, y: 8, own: false },
    { x: 34, w: 30, y: 8, own: true },
    { x: 66, w: 30, y: 8, own: true },
  ],
  overlap: [
    { x: 2, w: 60, y: 2, own: false },
    { x: 24, w: 40, y: 14, own: true },
  ],
  solo: [
    { x: 2, w: 26, y: 8, own: false },
    { x: 30, w: 38, y: 2, own: true },
    { x: 70, w: 26, y: 8, own: false },
  ],
  replace: [
    { x: 2, w: 26, y: 8, own: true },
    { x: 29, w: 50, y: 8, own: true },
  ],
  extend: [{ x: 2, w: 74, y: 8, own: true }],
  refuse: [
    { x: 2, w: 50, y: 8, own: true },
    { x: 60, w: 4, y: 8, own: false },
  ],
}
</script>

<template>
  <div v-if="cue && book.book" class="edit">
    <h2>Lane</h2>
    <div class="row wrap">
      <button
        v-for="lane in book.book.lanes"
        :key="lane.id"
        class="btn tiny"
        :class="{ main: (cue.lane ?? book.book.lanes[0]?.id) === lane.id }"
        @click="cue.lane = lane.id"
      >
        {{ lane.name }}
      </button>
      <form class="row" @submit.prevent="newLane">
        <input
          v-model="name"
          class="well slim"
          placeholder="New lane…"
          aria-label="New lane"
          data-test="new-lane"
        />
      </form>
      <RouterLink class="btn tiny bare" to="/lanes" data-test="lane-settings">Lane settings</RouterLink>
    </div>
    <h2>Entry</h2>
    <label v-for="entry in ENTRIES" :key="entry.id" class="entry" :class="{ on: cue.entry === entry.id }">
      <input v-model="cue.entry" type="radio" name="entry" :value="entry.id" />
      <svg viewBox="0 0 100 26" width="90" height="24" aria-hidden="true">
        <rect
          v-for="(block, i) in PICTURES[entry.id]"
          :key="i"
          :x="block.x"
          :y="block.y"
          :width="block.w"
          height="10"
          rx="2"
          :fill="block.own ? 'var(--marmalade)' : 'none'"
          :stroke="block.own ? 'none' : 'var(--soft)'"
        />
      </svg>
      <span
        ><strong>{{ entry.name }}</strong
        ><br /><span class="small soft">{{ entry.what }}</span></span
      >
    </label>
  </div>
</template>

<style scoped>
.edit {
  display: grid;
  gap: 6px;
}

.slim {
  width: 120px;
}

.wrap {
  flex-wrap: wrap;
}

.entry {
  display: grid;
  grid-template-columns: auto 90px 1fr;
  gap: 10px;
  align-items: center;
  padding: 4px 6px;
  border-radius: 8px;
  cursor: pointer;
  line-height: 1.25;
}

.entry.on {
  background: var(--ground);
}

input {
  accent-color: var(--marmalade);
}
</style>
