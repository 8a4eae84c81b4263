<script setup lang="ts">
/** Lanes: how many run at once, how long the line may be, and which cues are in each. */
import { computed, ref } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { lanesOf } from '@/logic/lanes'
import LaneCard from './LaneCard.vue'

const book = useBook()
const name = ref('')
const lanes = computed(() => (book.book ? lanesOf(book.book) : []))
const dragged = ref<string[]>([])

async function add(): Promise<void> {
  const wanted = name.value.trim()
  if (!wanted) return
  await attempt(() => book.edit(() => got(api.POST('/api/lanes', { body: { name: wanted } }))))
  name.value = ''
}

/** One step for all of them, so that one undo reverts them. */
async function move(cues: string[], lane: string): Promise<void> {
  dragged.value = []
  const there = lanes.value.find((one) => one.lane.id === lane)?.cues.map((cue) => cue.id) ?? []
  const moved = cues.filter((cue) => !there.includes(cue))
  if (!moved.length) return
  const body = { cues: moved, lane, remove: false }
  await attempt(() => book.edit(() => got(api.POST('/api/cues/many', { body }))))
}
</script>

<template>
  <div class="lanes">
    <div class="row wrap">
      <h1>Lanes</h1>
      <span class="grow"></span>
      <form class="row" @submit.prevent="add">
        <input
          v-model="name"
          class="well"
          placeholder="New lane"
          aria-label="New lane"
          data-test="lane-name"
        />
        <button class="btn main" :disabled="!name.trim()" data-test="lane-add">Add</button>
      </form>
    </div>
    <p class="soft small intro">
      Cues in one lane take turns. Cues in different lanes run side by side. Drag a cue to another lane to
      move it.
    </p>
    <LaneCard
      v-for="one in lanes"
      :key="one.lane.id"
      :lane="one.lane"
      :cues="one.cues"
      :others="lanes.map((other) => other.lane).filter((other) => other.id !== one.lane.id)"
      :takes="dragged.length > 0"
      @drag="dragged = [$event]"
      @drop-here="move(dragged, one.lane.id)"
      @move="(cue, to) => move([cue], to)"
      @end="dragged = []"
    />
  </div>
</template>

<style scoped>
.lanes {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  align-content: start;
}

.wrap {
  flex-wrap: wrap;
}

.intro {
  margin: 0;
}
</style>
