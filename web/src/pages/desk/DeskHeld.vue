<script setup lang="ts">
import { computed } from 'vue'
import { useLive } from '@/composables/useLive'
import { attempt } from '@/composables/useSay'
import { sayPath, sayReturn, sayValue } from '@/logic/words'
import { markOf } from '@/parts/marks'
import OutputMark from '@/parts/OutputMark.vue'
import TimeBar from '@/parts/TimeBar.vue'

const live = useLive()

interface Row {
  key: string
  output: string
  what: string
  who: string
  after: string
  since: number
  until: number | null
  run: string
  beat: string
}

/** Properties away from rest, then what is up on the overlay; the one that ends last stands first. */
const rows = computed<Row[]>(() => {
  const held = (live.state?.held ?? []).map((h) => ({
    key: h.path,
    output: h.output,
    what: `${sayPath(h.path)}: ${sayValue(h.value)}`,
    who: [h.cue, h.viewer].filter(Boolean).join(', '),
    after: sayReturn(h),
    since: h.since,
    until: h.until,
    run: h.run,
    beat: h.beat,
  }))
  const holding = new Set(held.map((h) => `${h.run}/${h.beat}`))
  const up = live.running.flatMap((run) =>
    run.beats
      .filter((beat) => !holding.has(`${run.run}/${beat.beat}`))
      .map((beat) => ({
        key: `${run.run}/${beat.beat}`,
        output: beat.kind,
        what: `${markOf(beat.kind).name}: ${beat.beat}`,
        who: [run.name, run.viewer].filter(Boolean).join(', '),
        after: 'goes',
        since: run.started,
        until: beat.until,
        run: run.run,
        beat: beat.beat,
      })),
  )
  return [...held, ...up].sort((a, b) => (b.until ?? Infinity) - (a.until ?? Infinity))
})
</script>

<template>
  <section class="card">
    <div class="card-title">
      <h2>Held</h2>
      <span class="soft">{{ rows.length || '' }}</span>
    </div>
    <p v-if="!rows.length" class="rest">
      <span class="far">At rest</span><br /><span class="soft">Nothing is held and nothing is up.</span>
    </p>
    <ul>
      <li v-for="row in rows" :key="row.key">
        <div class="row">
          <OutputMark :of="row.output" :size="22" />
          <strong class="grow cut-off" :title="row.what">{{ row.what }}</strong>
          <button class="btn tiny" @click="attempt(() => live.release(row.run, row.beat))">Release</button>
        </div>
        <TimeBar :since="row.since" :until="row.until" :now="live.now" :colour="markOf(row.output).colour" />
        <div class="small soft cut-off">{{ row.who }} · {{ row.after }}</div>
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
  gap: 12px;
}

li {
  display: grid;
  gap: 4px;
  border-top: 1px solid var(--line);
  padding-top: 8px;
}

.rest {
  color: var(--mint);
}
</style>
