<script setup lang="ts">
/** A first cue, from a file or ready-made. */
import { computed, ref } from 'vue'
import { attempt } from '@/composables/useSay'
import { useOpening } from '@/composables/useOpening'
import DropZone from '@/parts/DropZone.vue'
import { useFirstCue, type Ready } from './useFirstCue'

const { cues } = useOpening()
const first = useFirstCue()
const busy = ref(false)
const offered = computed(() => first.ready())

async function make(work: () => Promise<void>): Promise<void> {
  busy.value = true
  await attempt(work)
  busy.value = false
}
const choose = (one: Ready): Promise<void> => make(one.make)
</script>

<template>
  <DropZone
    :busy="busy"
    label="Drop a picture, clip or sound here, or choose one"
    @files="(files) => make(() => first.fromFiles(files))"
  />
  <div class="ready">
    <button
      v-for="one in offered"
      :key="one.id"
      class="btn one"
      :disabled="busy || Boolean(one.not)"
      :data-test="`ready-${one.id}`"
      @click="choose(one)"
    >
      <strong>{{ one.title }}</strong>
      <span class="soft small">{{ one.not || one.does }}</span>
    </button>
  </div>
  <p v-if="cues.length" class="small none">
    There
    {{ cues.length === 1 ? 'is' : 'are' }}
    <template v-for="(cue, i) in cues.slice(0, 3)" :key="cue.id"
      >{{ i ? ', ' : '' }}<RouterLink :to="`/cues/${cue.id}`">{{ cue.name }}</RouterLink></template
    >{{ cues.length > 3 ? ` and ${cues.length - 3} more` : '' }}. Each has a reward of its own, for 100
    points.
  </p>
</template>

<style scoped>
.ready {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 8px;
}

.one {
  display: grid;
  justify-items: start;
  gap: 2px;
  padding: 10px 14px;
  text-align: left;
}

.none {
  margin: 0;
}
</style>
