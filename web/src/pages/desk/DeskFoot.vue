<script setup lang="ts">
import { ElSlider } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { useReasons } from '@/composables/useReasons'
import { attempt, say } from '@/composables/useSay'
import DeskOutputs from './DeskOutputs.vue'
import DeskReady from './DeskReady.vue'

const book = useBook()
const live = useLive()
const reasons = useReasons()
const volume = ref(80)

watch(
  () => book.book?.house.volume,
  (now) => (volume.value = now ?? 80),
  { immediate: true },
)

const pads = computed(() => (book.book?.cues ?? []).filter((cue) => cue.on).slice(0, 10))

async function fire(cue: string): Promise<void> {
  const done = await got(api.POST('/api/cues/{cue_id}/fire', { params: { path: { cue_id: cue } } }))
  if (done.verdict === 'turned_away')
    say(`Turned away: ${reasons.value[done.reason ?? ''] ?? done.reason}`, 'wrong')
}
</script>

<template>
  <section class="card foot">
    <label class="volume row">
      <span class="soft small">Volume</span>
      <ElSlider
        v-model="volume"
        class="grow"
        aria-label="Master volume"
        @change="attempt(() => book.putHouse({ volume }))"
      />
      <span class="number">{{ volume }}</span>
    </label>
    <DeskOutputs />
    <DeskReady />
    <div class="pads" role="group" aria-label="Pads">
      <button
        v-for="cue in pads"
        :key="cue.id"
        class="pad"
        :class="{ lit: live.runningCues.has(cue.id) }"
        @click="attempt(() => fire(cue.id))"
      >
        {{ cue.name }}
      </button>
      <span v-if="!pads.length" class="soft none">Cues become pads here.</span>
    </div>
  </section>
</template>

<style scoped>
.foot {
  display: flex;
  align-items: center;
  gap: 20px;
  padding-block: 8px;
}

.volume {
  width: 200px;
  flex: none;
  gap: 14px;
}

.number {
  font-family: var(--display);
  font-weight: 700;
  width: 28px;
}

.pads {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.pads {
  flex: 1;
  min-width: 0;
  display: grid;
  grid-template-columns: repeat(5, minmax(0, 1fr));
}

.none {
  grid-column: 1 / -1;
}

.pad {
  min-height: 40px;
  padding: 2px 8px;
  line-height: 1.1;
  background: var(--raised);
  border: 1px solid var(--line);
  border-bottom: 3px solid var(--line);
  border-radius: 8px;
  font-weight: 700;
  cursor: pointer;
}

.pad:hover {
  border-color: var(--marmalade);
}

.pad.lit {
  border-color: var(--mint);
  color: var(--mint);
}

@media (max-width: 1120px) {
  .foot {
    flex-wrap: wrap;
    gap: 10px;
  }

  .pads {
    flex-basis: 100%;
    grid-template-columns: repeat(auto-fill, minmax(105px, 1fr));
  }
}
</style>
