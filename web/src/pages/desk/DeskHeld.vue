<script setup lang="ts">
/** What is on now, one row per run: what it holds, where that goes back to, how long; opened, its parts. */
import { computed, ref } from 'vue'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { attempt } from '@/composables/useSay'
import { heldByRun } from '@/logic/held'
import { markOf } from '@/parts/marks'
import OutputMark from '@/parts/OutputMark.vue'
import TimeBar from '@/parts/TimeBar.vue'
import TimeLeft from '@/parts/TimeLeft.vue'
import ViewerName from '@/parts/viewers/ViewerName.vue'

const live = useLive()
const book = useBook()
const rows = computed(() => heldByRun(live.state?.held ?? [], live.running))
/** The next timers: more would push down what is on. */
const MOST_TIMERS = 3
const timers = computed(() =>
  (live.state?.timing.timers ?? []).slice(0, MOST_TIMERS).map((timer) => ({
    ...timer,
    name: book.book?.cues.find((cue) => cue.id === timer.cue)?.name ?? timer.cue,
  })),
)
const open = ref<string | null>(null)
</script>

<template>
  <section class="card held">
    <div class="card-title">
      <h2>On now</h2>
      <span class="soft">{{ rows.length || '' }}</span>
    </div>
    <p v-if="!rows.length" class="rest">
      <span class="far">At rest</span><br /><span class="soft">No effects are running.</span>
    </p>
    <p v-for="timer in timers" :key="timer.cue" class="small timer" data-test="next-timer">
      <RouterLink :to="`/cues/${timer.cue}`">{{ timer.name }}</RouterLink>
      <span class="soft">in <TimeLeft :until="timer.at" />, by its timer</span>
    </p>
    <ul>
      <li v-for="row in rows" :key="row.run" :data-run="row.run">
        <div class="row">
          <button
            class="who grow"
            :aria-expanded="open === row.run"
            :title="`${row.name}, ${row.viewer}`"
            @click="open = open === row.run ? null : row.run"
          >
            <strong class="two-lines">{{ row.name }}</strong>
          </button>
          <span class="soft caller"><ViewerName :id="row.viewerId" :name="row.viewer" /></span>
          <RouterLink v-if="row.run.startsWith('set/')" class="btn tiny" to="/rewards">Rewards</RouterLink>
          <button v-else class="btn tiny" @click="attempt(() => live.release(row.run, null))">End</button>
        </div>
        <TimeBar :since="row.since" :until="row.until" />
        <p class="small story">
          {{ row.what }}<template v-if="row.back">; {{ row.back }}</template>
        </p>
        <ul v-if="open === row.run" class="parts">
          <li v-for="part in row.parts" :key="part.key">
            <div class="row small">
              <OutputMark :of="part.output" :size="18" />
              <strong class="grow cut-off" :title="part.what">{{ part.what }}</strong>
              <span v-if="part.swatch" class="swatch" :style="{ background: part.swatch }"></span>
              <button class="btn tiny" @click="attempt(() => live.release(row.run, part.beat))">
                Release
              </button>
            </div>
            <TimeBar :since="part.since" :until="part.until" :colour="markOf(part.output).colour" />
            <span class="soft small">{{ part.after }}</span>
          </li>
        </ul>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
}

li {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 3px;
  border-top: 1px solid var(--line);
  padding-top: 7px;
}

.timer {
  display: flex;
  gap: 8px;
  margin: 0 0 4px;
}

.who {
  display: flex;
  gap: 8px;
  align-items: baseline;
  min-width: 0;
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.who strong {
  font: 680 17px var(--display);
}

.caller {
  max-width: 45%;
  overflow: hidden;
}

.story {
  margin: 0;
  color: var(--soft);
}

.parts {
  padding-left: 12px;
  border-left: 3px solid var(--line);
}

.swatch {
  width: 18px;
  height: 18px;
  border: 2px solid var(--line);
  border-radius: 50%;
}

.rest {
  color: var(--mint);
}
</style>
