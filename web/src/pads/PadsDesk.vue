<script setup lang="ts">
/** The desk on a device that may do everything: what is on, who waits, what arrived. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { toneOf } from '@/logic/arrivals'
import { sayLeft } from '@/logic/duration'
import { heldByRun } from '@/logic/held'
import { saidOfLane } from '@/logic/lanes'
import { sayClock, sayNumber } from '@/logic/words'
import type { PadsWish } from './link'

const props = defineProps<{
  desk: Schemas['PadsDeskNow'] | null
  arrivals: Schemas['ArrivalTold'][]
  now: number
  disabled: boolean
}>()
const emit = defineEmits<{ ask: [wish: PadsWish] }>()

const lanes = computed(() => props.desk?.lanes ?? [])
const rows = computed(() =>
  heldByRun(
    props.desk?.held ?? [],
    lanes.value.flatMap((lane) => lane.running),
  ),
)
const waiting = computed(() => lanes.value.filter((lane) => lane.waits))

function share(row: { since: number; until: number | null }): number {
  if (row.until === null) return 1
  return Math.max(0, Math.min(1, (row.until - props.now) / Math.max(1, row.until - row.since)))
}
</script>

<template>
  <aside class="desk" aria-label="Desk" tabindex="0">
    <section>
      <h2>On now</h2>
      <p v-if="!rows.length" class="soft">At rest. No effects are running.</p>
      <ul>
        <li v-for="row in rows" :key="row.run" :data-run="row.run">
          <div class="line">
            <strong class="grow">{{ row.name }}</strong>
            <span class="soft small">{{ row.viewer }}</span>
            <button
              v-if="!row.run.startsWith('set/')"
              class="btn"
              :disabled="disabled"
              :aria-label="`End ${row.name}`"
              @click="emit('ask', { do: 'end', run: row.run })"
            >
              End
            </button>
          </div>
          <div class="line">
            <i class="track"><i class="fill" :style="{ transform: `scaleX(${share(row)})` }"></i></i>
            <strong class="left">{{ row.until === null ? 'open' : sayLeft(row.until - now) }}</strong>
          </div>
          <span class="soft small">{{ row.what }}{{ row.back ? `; ${row.back}` : '' }}</span>
        </li>
      </ul>
    </section>
    <section v-for="lane in waiting" :key="lane.id">
      <h2>
        {{ lane.name }} <span class="soft small">{{ saidOfLane(lane) }}</span>
      </h2>
      <ol>
        <li v-for="wait in lane.waiting" :key="wait.run" class="line" :data-run="wait.run">
          <span class="grow"
            >{{ wait.name }} <span class="soft small">{{ wait.viewer }}</span></span
          >
          <span class="soft small">in {{ sayLeft(wait.begins - now, true) }}</span>
          <button
            class="btn"
            :disabled="disabled"
            title="Send back: points are refunded unless part of it has started"
            :aria-label="`Send ${wait.name} of ${wait.viewer || 'nobody'} back`"
            @click="emit('ask', { do: 'send_back', run: wait.run })"
          >
            ✕
          </button>
        </li>
      </ol>
      <p v-if="lane.waits > lane.waiting.length" class="soft small">
        and {{ sayNumber(lane.waits - lane.waiting.length) }} more waiting
      </p>
    </section>
    <section>
      <h2>Arrivals</h2>
      <p v-if="!arrivals.length" class="soft">Every call appears here with its result.</p>
      <ul>
        <li v-for="row in arrivals" :key="row.id" :class="toneOf(row)">
          <div class="line">
            <strong class="grow cut-off">{{ row.viewer || 'You' }}</strong>
            <span class="soft small">{{ sayClock(row.at) }}</span>
          </div>
          <span class="cut-off">{{ row.what }}{{ row.text ? `: “${row.text}”` : '' }}</span>
          <span class="verdict small">{{ row.said }}</span>
        </li>
      </ul>
    </section>
  </aside>
</template>

<style scoped>
.desk {
  flex: 0 0 min(400px, 100%);
  overflow-y: auto;
  padding: 12px;
  background: var(--surface);
  border-left: 2px solid var(--line);
}

@media (max-width: 899px) {
  .desk {
    flex: 1;
    border-left: 0;
  }
}

section + section {
  margin-top: 16px;
}

h2 {
  margin: 0 0 6px;
  font-size: 17px;
}

p,
ul,
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  gap: 2px;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}

.line {
  display: flex;
  align-items: center;
  gap: 10px;
}

.btn {
  min-height: 44px;
  min-width: 44px;
}

.track {
  flex: 1;
  height: 10px;
  background: var(--ground);
  border-radius: 5px;
  overflow: hidden;
}

.fill {
  display: block;
  height: 100%;
  background: var(--marmalade);
  transform-origin: left;
}

.left {
  min-width: 64px;
  font: 700 20px var(--display);
  text-align: right;
}

.yes .verdict {
  color: var(--mint);
}

.no .verdict {
  color: var(--berry);
}
</style>
