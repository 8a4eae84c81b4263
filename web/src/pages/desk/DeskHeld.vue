<script setup lang="ts">
import { computed } from 'vue'
import { useLive, type Held } from '@/composables/useLive'
import { attempt } from '@/composables/useSay'
import { sayPaths, sayReturn, sayValue } from '@/logic/words'
import { BEAT_KINDS, type BeatKindName } from '@/api/kinds'
import { markOf } from '@/parts/marks'
import OutputMark from '@/parts/OutputMark.vue'
import TimeBar from '@/parts/TimeBar.vue'

const live = useLive()

/** Kinds of beat that hold properties: one that is not on top is still there. */

interface Row {
  key: string
  output: string
  what: string
  swatch?: string
  who: string
  after: string
  since: number
  until: number | null
  run: string
  beat: string
}

/** A look without which lamp of how many it is. */
const plain = (row: Held): string =>
  row.output === 'light' ? (sayValue(row.value).split(', ')[0] ?? '') : sayValue(row.value)

/** Properties that one beat holds at the same value (all lamps red) are one row. */
function together(held: readonly Held[]): { row: Held; paths: string[] }[] {
  const rows = new Map<string, { row: Held; paths: string[] }>()
  for (const row of held) {
    const key = JSON.stringify([
      row.run,
      row.beat,
      plain(row),
      row.layers,
      row.output,
      row.path.split('/').pop(),
    ])
    const there = rows.get(key)
    if (there && row.output === 'light') there.paths.push(row.path)
    else rows.set(there ? row.path : key, { row, paths: [row.path] })
  }
  return [...rows.values()]
}

/** Properties away from rest, then what is up on the overlay; the one that ends last stands first. */
const rows = computed<Row[]>(() => {
  const held = together(live.state?.held ?? []).map(({ row: h, paths }) => ({
    key: h.path,
    output: h.output,
    what: `${sayPaths(paths)}: ${plain(h)}`,
    swatch: /^#[0-9a-f]{6}$/i.test(String(h.value)) ? String(h.value) : undefined,
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
        after: BEAT_KINDS[beat.kind as BeatKindName]?.way === 'hold' ? 'lies under another' : 'goes',
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
          <span v-if="row.swatch" class="swatch" :style="{ background: row.swatch }"></span>
        </div>
        <TimeBar :since="row.since" :until="row.until" :now="live.now" :colour="markOf(row.output).colour" />
        <div class="row small soft">
          <span class="grow" :title="`${row.who}, ${row.after}`">{{ row.who }}<br />{{ row.after }}</span>
          <button class="btn tiny" @click="attempt(() => live.release(row.run, row.beat))">Release</button>
        </div>
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
  gap: 12px;
}

li {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 4px;
  border-top: 1px solid var(--line);
  padding-top: 8px;
}

.swatch {
  width: 22px;
  height: 22px;
  border: 2px solid var(--line);
  border-radius: 50%;
}

.rest {
  color: var(--mint);
}
</style>
