/** What is going on now: holds, lanes, arrivals, gear, over the desk's feed. */
import { defineStore } from 'pinia'
import { computed, ref, shallowReactive, shallowRef } from 'vue'
import { api, got, type DeskMessage, type LedgerLine, type Schemas } from '@/api/client'
import { useBook } from './useBook'
import { useFeed } from './useFeed'
import { say } from './useSay'

export type Held = Schemas['HeldRow']
export type Waiting = Schemas['WaitingRow']
export type Device = Schemas['DeviceTold']
export type GearRow = Schemas['GearRow']
type LaneRow = Schemas['LaneState']
type Part = Extract<DeskMessage, { t: 'part' }>
/** The parts of the feed that are passed on unchanged, by name; lanes come one by one. */
type Parts = { [P in Exclude<Part['of'], 'lane' | 'lanes' | 'tries'>]: Extract<Part, { of: P }>['value'] }

export type LiveState = Omit<Parts, 'show'> & Schemas['ShowState'] & { lanes: LaneRow[] }

const MOST_LINES = 120
const NOTHING: Omit<Parts, 'show'> = {
  held: [],
  timing: { quiet: null, timers: [] },
  reviews: { count: 0, first: [] },
  gear: [],
  overlays: [],
  jobs: [],
  pads: { rows: [], devices: [] },
  wrong: { troubles: [], tasks: [] },
}

export const useLive = defineStore('live', () => {
  const parts = shallowReactive(new Map<string, unknown>())
  const state = computed<LiveState | null>(() => {
    const show = parts.get('show') as Parts['show'] | undefined
    if (!show) return null
    const told = Object.fromEntries(
      Object.keys(NOTHING).flatMap((name) => (parts.has(name) ? [[name, parts.get(name)]] : [])),
    )
    const order = (parts.get('lanes') as string[] | undefined) ?? []
    const lanes = order.flatMap((id) => (parts.get(`lane/${id}`) as LaneRow | undefined) ?? [])
    return { ...NOTHING, ...show, ...(told as Partial<Omit<Parts, 'show'>>), lanes }
  })
  const lines = shallowRef<LedgerLine[]>([])
  const now = ref(Date.now())
  let ahead = 0

  function take(part: Part): void {
    ahead = part.now - Date.now()
    parts.set(part.of === 'lane' ? `lane/${part.value.id}` : part.of, part.value)
  }

  function merge(fresh: LedgerLine[]): void {
    const byId = new Map(lines.value.map((line) => [line.id, line]))
    for (const line of fresh) byId.set(line.id, line)
    lines.value = [...byId.values()].sort((a, b) => b.id - a.id).slice(0, MOST_LINES)
  }

  const connected = ref(true)
  useFeed<DeskMessage>(
    '/api/feed',
    (message) => {
      if (message.t === 'whole') {
        lines.value = []
        void useBook().refresh(message.version)
      } else if (message.t === 'part') take(message)
      else if (message.t === 'ledger') merge(message.lines)
      else if (message.t === 'book') void useBook().refresh(message.version)
    },
    (is) => (connected.value = is),
  )

  // Ten times a second is smooth for what is counted down, and leaves the computer to the game.
  setInterval(() => (now.value = Date.now() + ahead), 100)

  const running = computed(() => (state.value?.lanes ?? []).flatMap((lane) => lane.running))
  const padRows = computed(() => new Map((state.value?.pads.rows ?? []).map((row) => [row.cue, row])))
  const runningCues = computed(() => new Set(running.value.map((run) => run.cue)))

  async function allToRest(): Promise<void> {
    const done = await got(api.POST('/api/all-to-rest'))
    const ended = [...done.ended, ...done.dropped.map((name) => `${name} (waiting, refunded)`)]
    say(ended.length ? `Ended: ${ended.join(', ')}` : 'Everything was already at rest.', 'fine')
  }

  async function release(run: string, beat: string | null): Promise<void> {
    await got(api.POST('/api/runs/{run_id}/release', { params: { path: { run_id: run } }, body: { beat } }))
  }

  return { state, lines, now, connected, running, runningCues, padRows, allToRest, release }
})
