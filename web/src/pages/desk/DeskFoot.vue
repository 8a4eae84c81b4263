<script setup lang="ts">
import { ElSlider } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { useReasons } from '@/composables/useReasons'
import { attempt, say } from '@/composables/useSay'
import { MARKS, outputOf, type Output } from '@/parts/marks'
import OutputMark from '@/parts/OutputMark.vue'

const book = useBook()
const live = useLive()
const reasons = useReasons()
const volume = ref(80)

watch(
  () => book.book?.house.volume,
  (now) => (volume.value = now ?? 80),
  { immediate: true },
)

const outputs = computed<Output[]>(() => {
  const used = new Set((book.book?.cues ?? []).flatMap((cue) => cue.beats.map((beat) => outputOf(beat.kind))))
  return (Object.keys(MARKS) as Output[]).filter((output) => used.has(output))
})
const pads = computed(() => (book.book?.cues ?? []).filter((cue) => cue.on).slice(0, 10))

function isOn(output: string): boolean {
  return book.book?.house.switches[output] ?? true
}

function toggle(output: string): void {
  const switches = { ...book.book?.house.switches, [output]: !isOn(output) }
  void attempt(() => book.putHouse({ switches }))
}

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
    <div class="switches" role="group" aria-label="Kinds of output">
      <button
        v-for="output in outputs"
        :key="output"
        class="switch"
        :class="{ off: !isOn(output) }"
        :aria-pressed="isOn(output)"
        :title="`${MARKS[output].name}: ${isOn(output) ? 'on' : 'off'}`"
        @click="toggle(output)"
      >
        <OutputMark :of="output" :size="20" />
      </button>
    </div>
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

.switches,
.pads {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.switch {
  display: grid;
  place-items: center;
  width: 36px;
  height: 36px;
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: 8px;
  cursor: pointer;
}

.switch.off {
  background: repeating-linear-gradient(135deg, var(--ground) 0 6px, var(--raised) 6px 8px);
  opacity: 0.7;
}

.switch.off svg {
  opacity: 0.3;
}

.switches {
  width: 330px;
  flex: none;
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
</style>
