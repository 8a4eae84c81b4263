/** What is going on now: held, lanes, arrivals, gear, over the desk's feed. */
import { defineStore } from 'pinia'
import { computed, ref, shallowReactive } from 'vue'
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

interface RunningBeat {
  beat: string
  kind: string
  output: string
  until: number | null
}

interface RunRow {
  run: string
  cue: string
  name: string
  viewer: string
  text: string
  redemption: string | null
  call: string
  entry: string
}

interface Running extends RunRow {
  started: number
  until: number | null
  beats: RunningBeat[]
}

export interface Waiting extends RunRow {
  since: number
  /** About when it will start, ms of the show's clock. */
  begins: number
}

interface LaneRow {
  id: string
  name: string
  width: number
  /** How many run and wait; the first of them are named. */
  runs: number
  waits: number
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

interface JobRow {
  id: number
  what: string
  name: string
  state: 'waiting' | 'running' | 'done' | 'stopped' | 'failed'
  share: number
  problem: string
}

interface ShowState {
  on_air: boolean
  stream_from: number | null
  category: string | null
  open: boolean
  said: string[]
  /** What channel and gear did not confirm yet. */
  owed: { settlements?: number; strikes?: number }
}

/** What does not work at the moment, and what that means. */
interface Trouble {
  what: string
  means: string
  since: number
}

interface TaskRow {
  name: string
  state: 'running' | 'away'
  problem: string
  since: number
  falls: number
}

/** The parts of the feed that are told as they are; lanes come one by one. */
interface Parts {
  show: ShowState
  held: Held[]
  reviews: { count: number; first: { redemption: string; reward: string; viewer: string; text: string }[] }
  gear: GearRow[]
  overlays: { id: string; name: string; pages: number; lags: (number | null)[] }[]
  jobs: JobRow[]
  wrong: { troubles: Trouble[]; tasks: TaskRow[] }
}

export interface LiveState extends ShowState, Omit<Parts, 'show'> {
  lanes: LaneRow[]
}

const MOST_LINES = 120
const NOTHING: Omit<Parts, 'show'> = {
  held: [],
  reviews: { count: 0, first: [] },
  gear: [],
  overlays: [],
  jobs: [],
  wrong: { troubles: [], tasks: [] },
}

export const useLive = defineStore('live', () => {
  const parts = shallowReactive(new Map<string, unknown>())
  const state = computed<LiveState | null>(() => {
    const show = parts.get('show') as ShowState | undefined
    if (!show) return null
    const told = Object.fromEntries(
      Object.keys(NOTHING).flatMap((name) => (parts.has(name) ? [[name, parts.get(name)]] : [])),
    )
    const order = (parts.get('lanes') as string[] | undefined) ?? []
    const lanes = order.flatMap((id) => (parts.get(`lane/${id}`) as LaneRow | undefined) ?? [])
    return { ...NOTHING, ...show, ...(told as Partial<Omit<Parts, 'show'>>), lanes }
  })
  const lines = ref<LedgerLine[]>([])
  const now = ref(Date.now())
  let ahead = 0

  function take(message: Record<string, unknown>): void {
    ahead = (message.now as number) - Date.now()
    parts.set(message.of as string, message.value)
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
        lines.value = []
        void useBook().refresh(message.version as number)
      } else if (message.t === 'part') take(message)
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
