<script setup lang="ts">
/** The text being read aloud, with Skip; and the last one, to repeat. */
import { computed } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { attempt } from '@/composables/useSay'
import ViewerName from '@/parts/viewers/ViewerName.vue'

const live = useLive()
const book = useBook()
const reading = computed(() =>
  live.running.flatMap((run) =>
    run.beats.filter((beat) => beat.kind === 'speech').map((beat) => ({ run, beat: beat.beat })),
  ),
)
const reads = computed(() =>
  (book.book?.cues ?? []).some((cue) => cue.beats.some((beat) => beat.kind === 'speech')),
)
</script>

<template>
  <article v-if="reads" class="card reading">
    <div v-for="one in reading" :key="`${one.run.run}/${one.beat}`" class="row" data-test="reading">
      <span class="grow"
        ><strong><ViewerName :id="one.run.viewer_id" :name="one.run.viewer || 'You'" /></strong>:
        {{ one.run.text }}</span
      >
      <button class="btn tiny" data-test="skip" @click="attempt(() => live.release(one.run.run, one.beat))">
        Skip
      </button>
    </div>
    <div v-if="!reading.length" class="row">
      <span class="soft small grow">Nothing is being read.</span>
      <button class="btn tiny" @click="attempt(() => got(api.POST('/api/speech/repeat')))">
        Repeat last
      </button>
    </div>
  </article>
</template>

<style scoped>
.reading {
  display: grid;
  gap: 6px;
  padding-block: 8px;
}
</style>
