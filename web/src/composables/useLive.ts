/** What is going on now: held, lanes, arrivals, gear, over the desk's feed. */
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, got, type LedgerLine } from '@/api/client'
import { openFeed } from '@/logic/feed'
import { useBook } from './useBook'
import { say } from './useSay'

export interface Held {
  path: string
  output: string
  value: unknown
  returns_to: unknown
  rest: unknown
  run: string
  beat: string
  cue: string
  viewer: string
  since: number
  until: number | null
  layers: number
}

export interface RunningBeat {
  beat: string
  kind: string
  output: string
  until: number | null
}

export interface RunRow {
  run: string
  cue: string
  name: string
  viewer: string
  text: string
  redemption: string | null
  call: string
  entry: string
}

export interface Running extends RunRow {
  started: number
  until: number | null
  beats: RunningBeat[]
}

export interface Waiting extends RunRow {
  since: number
  wait: number
}

export interface LaneRow {
  id: string
  name: string
  width: number
  running: Running[]
  waiting: Waiting[]
}

export interface GearRow {
  id: string
  kind: string
  name: string
  state: 'in_step' | 'catching_up' | 'away' | 'off'
  since: number
  problem: string
  serial?: number
}

export interface JobRow {
  id: number
  what: string
  name: string
  state: 'waiting' | 'running' | 'done' | 'stopped' | 'failed'
  share: number
  problem: string
}

export interface LiveState {
  now: number
  on_air: boolean
  stream_from: number | null
  category: string | null
  open: boolean
  held: Held[]
  lanes: LaneRow[]
  reviews: { redemption: string; reward: string; viewer: string; text: string }[]
  gear: GearRow[]
  overlays: { id: string; name: string; pages: number; lags: (number | null)[] }[]
  jobs: JobRow[]
  said: string[]
}

const MOST_LINES = 120

export const useLive = defineStore('live', () => {
  const state = ref<LiveState | null>(null)
  const lines = ref<LedgerLine[]>([])
  const now = ref(Date.now())
  let ahead = 0

  function take(next: LiveState): void {
    ahead = next.now - Date.now()
    state.value = next
  }

  function merge(fresh: LedgerLine[]): void {
    const byId = new Map(lines.value.map((line) => [line.id, line]))
    for (const line of fresh) byId.set(line.id, line)
    lines.value = [...byId.values()].sort((a, b) => b.id - a.id).slice(0, MOST_LINES)
  }

  const connected = ref(true)
  openFeed(
    '/api/feed',
    (message) => {
      if (message.t === 'whole') {
        take(message.state as LiveState)
        lines.value = []
        merge(message.lines as LedgerLine[])
        void useBook().refresh(message.version as number)
      } else if (message.t === 'state') take(message as unknown as LiveState)
      else if (message.t === 'ledger') merge(message.lines as LedgerLine[])
      else if (message.t === 'book') void useBook().refresh(message.version as number)
    },
    (is) => (connected.value = is),
  )

  function tick(): void {
    now.value = Date.now() + ahead
    requestAnimationFrame(tick)
  }
  requestAnimationFrame(tick)

  const running = computed(() => (state.value?.lanes ?? []).flatMap((lane) => lane.running))
  const runningCues = computed(() => new Set(running.value.map((run) => run.cue)))

  async function allToRest(): Promise<void> {
    const done = await got(api.POST('/api/rest'))
    const ended = [...done.ended, ...done.dropped.map((name) => `${name} (waiting, refunded)`)]
    say(ended.length ? `Ended: ${ended.join(', ')}` : 'Everything was at rest already.', 'fine')
  }

  async function release(run: string, beat: string | null): Promise<void> {
    await got(api.POST('/api/runs/{run}/release', { params: { path: { run } }, body: { beat } }))
  }

  return { state, lines, now, connected, running, runningCues, allToRest, release }
})
