<script setup lang="ts">
/** The results of a night. Every figure opens the calls behind it. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useReasons } from '@/composables/useReasons'
import { figure, plain, spread } from '@/logic/nights'

const props = defineProps<{
  night: Schemas['NightOut']
  words: Record<string, string>
  lanes: { id: string; name: string }[]
}>()
const emit = defineEmits<{ calls: [figure: string, title: string, more: string] }>()
const reasons = useReasons()
const book = useBook()
const names = computed(() => new Map((book.book?.cues ?? []).map((cue) => [cue.id, cue.name])))
const FEW = 8

interface Told {
  figure: string
  words: string
  value: string
  range: string
  more: string
}
const FIRST = ['redemptions', 'let_in', 'refunds', 'wait_p95_s']
const result = computed(() => props.night.result as Record<string, unknown>)
const count = (name: string): number => Number(result.value[name] ?? 0)
const pairs = (name: string): [string, number][] =>
  Object.entries((result.value[name] ?? {}) as Record<string, number>).sort((a, b) => b[1] - a[1])

function told(name: string): Told {
  const one = props.night.figures[name]
  const many = props.night.nights > 1 && one
  return {
    figure: name,
    words: plain(props.words[name] ?? name),
    value: figure(name, many ? one.median : count(name)),
    range: many && one.low !== one.high ? `${figure(name, one.low)} to ${figure(name, one.high)}` : '',
    more: '',
  }
}
const first = computed(() => FIRST.map(told))
const rest = computed(() =>
  Object.keys(props.words)
    .filter((name) => !FIRST.includes(name))
    .map(told),
)
const lists = computed(() =>
  [
    {
      title: 'Refused, by reason',
      rows: pairs('turned_away').map(([reason, n]) =>
        row('turned_away', reasons.value[reason] ?? reason, String(n), reason),
      ),
    },
    { title: 'Waits by lane', rows: waits('waits_by_lane') },
    { title: 'Waits by cue', rows: waits('waits_by_cue').slice(0, FEW) },
    {
      title: 'Viewers',
      rows: [
        ['luckiest', 'luckiest_share', 'most let in'],
        ['unluckiest', 'unluckiest_share', 'least let in'],
      ]
        .filter(([who]) => result.value[who ?? ''])
        .map(([who, share, words]) => {
          const name = String(result.value[who ?? ''])
          return row('viewer', `${name} ${words}`, `${Math.round(count(share ?? '') * 100)} %`, name)
        }),
    },
    {
      title: 'Limits met',
      rows: [
        row('haptics_limited', 'haptics limited', String(count('haptics_limited')), ''),
        row('flashes_softened', 'flashes softened', String(count('flashes_softened')), ''),
        row('sounds_over_others', 'sounds over other sounds', String(count('sounds_over_others')), ''),
        // A channel that can pause rewards doesn't let anybody redeem them.
        ...(count('spared_by_pauses')
          ? [row('refunds', 'refunds avoided by pausing', String(count('spared_by_pauses')), '')]
          : []),
      ],
    },
  ].filter((list) => list.rows.length),
)
function row(name: string, words: string, value: string, more: string): Told {
  return { figure: name, words, value, range: '', more }
}
function waits(name: string): Told[] {
  const rows = Object.entries((result.value[name] ?? {}) as Record<string, Record<string, number>>)
    .filter(([, wait]) => name === 'waits_by_lane' || (wait.longest_s ?? 0) > 0)
    .sort((a, b) => (b[1].longest_s ?? 0) - (a[1].longest_s ?? 0))
  return rows.map(([id, wait]) => {
    const named = props.lanes.find((lane) => lane.id === id)?.name ?? names.value.get(id) ?? id
    const [middle, late, longest] = [wait.median_s, wait.p95_s, wait.longest_s].map((one) =>
      figure('_s', one ?? 0),
    )
    return row('wait_longest_s', named, `median ${middle}, 95th percentile ${late}, longest ${longest}`, id)
  })
}
const open = (one: Told): void => emit('calls', one.figure, one.words, one.more)
const range = (name: string): string => {
  const one = props.night.figures[name]
  return one ? spread(name, one) : ''
}
</script>

<template>
  <section class="card report" aria-label="Results" data-test="report">
    <div class="card-title">
      <h2>Results</h2>
      <span v-if="night.nights > 1" class="soft small">median of {{ night.nights }} nights</span>
    </div>
    <div class="first">
      <button
        v-for="one in first"
        :key="one.figure"
        class="figure"
        :data-test="`figure-${one.figure}`"
        :title="range(one.figure)"
        @click="open(one)"
      >
        <b class="far">{{ one.value }}</b>
        <span class="small soft">{{ one.words }}</span>
        <span v-if="one.range" class="small soft">{{ one.range }}</span>
      </button>
    </div>
    <dl>
      <template v-for="one in rest" :key="one.figure">
        <dt>{{ one.words }}</dt>
        <dd>
          <button class="plain" :data-test="`figure-${one.figure}`" @click="open(one)">
            {{ one.value }}<span v-if="one.range" class="soft small"> ({{ one.range }})</span>
          </button>
        </dd>
      </template>
    </dl>
    <section v-for="list in lists" :key="list.title" :aria-label="list.title">
      <h3>{{ list.title }}</h3>
      <dl>
        <template v-for="one in list.rows" :key="one.words">
          <dt>{{ one.words }}</dt>
          <dd>
            <button class="plain" @click="open(one)">{{ one.value }}</button>
          </dd>
        </template>
      </dl>
    </section>
  </section>
</template>

<style scoped>
.report {
  display: grid;
  gap: 10px;
  align-content: start;
}

.first {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(110px, 1fr));
  gap: 8px;
}

.figure {
  display: grid;
  justify-items: start;
  padding: 6px 12px;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--raised);
  text-align: left;
  cursor: pointer;
}

.figure:hover {
  border-color: var(--marmalade);
}

dl {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 12px;
  margin: 0;
}

dt {
  color: var(--soft);
}

dd {
  margin: 0;
  text-align: right;
}

h3 {
  margin-bottom: 4px;
  font-size: 15px;
}

.plain {
  padding: 0;
  border: 0;
  background: none;
  text-align: right;
  text-decoration: underline dotted;
  text-underline-offset: 3px;
  cursor: pointer;
}
</style>
