/** The pads of this device, and their state. */
import { useEventListener, useIntervalFn, useLocalStorage } from '@vueuse/core'
import { computed, ref, shallowRef, type ComputedRef, type Ref, type ShallowRef } from 'vue'
import type { Schemas } from '@/api/client'
import { offerOf, PadsLink, type Identity, type LinkState, type PadsWish } from './link'

type PadTold = Schemas['PadTold']
type PadsNow = Schemas['PadsNow']

export interface Pads {
  state: Ref<LinkState>
  paired: ComputedRef<boolean>
  pads: ShallowRef<PadTold[]>
  house: ShallowRef<PadsNow | null>
  rows: ComputedRef<Map<string, Schemas['PadNow']>>
  now: ComputedRef<number>
  said: Ref<string>
  /** What is on and who waits; null until it is asked for. */
  desk: ShallowRef<Schemas['PadsDeskNow'] | null>
  /** The latest calls, newest first. */
  arrivals: ShallowRef<Schemas['ArrivalTold'][]>
  ask: (wish: PadsWish) => Promise<void>
}

const SAID_MS = 5000
const MOST_ARRIVALS = 20
/** Times show a tenth of a second at most. */
const TICK_MS = 100
const WRONG = [40, 60, 40]

type Arrival = Schemas['ArrivalTold']

/** The newest first; a call that changed is at its place. */
function joined(fresh: readonly Arrival[], known: readonly Arrival[]): Arrival[] {
  const all = new Map([...known, ...fresh].map((row) => [row.id, row]))
  return [...all.values()].sort((a, b) => b.id - a.id).slice(0, MOST_ARRIVALS)
}

export function usePads(): Pads {
  const kept = useLocalStorage<Identity | null>('pads-device', null, {
    serializer: { read: (text) => JSON.parse(text) as Identity | null, write: JSON.stringify },
  })
  const state = ref<LinkState>({ is: 'connecting' })
  const pads = shallowRef<PadTold[]>([])
  const house = shallowRef<PadsNow | null>(null)
  const desk = shallowRef<Schemas['PadsDeskNow'] | null>(null)
  const arrivals = shallowRef<Schemas['ArrivalTold'][]>([])
  const said = ref('')
  const ahead = ref(0)
  const clock = ref(Date.now())
  useIntervalFn(() => (clock.value = Date.now()), TICK_MS)
  const now = computed(() => clock.value + ahead.value)
  const rows = computed(() => new Map((house.value?.rows ?? []).map((row) => [row.cue, row])))
  let link: PadsLink | null = null
  let quiet: ReturnType<typeof setTimeout> | undefined

  /** The part after the # is removed once it was used: nobody can read it, and reloading doesn't use it again. */
  function clean(): void {
    history.replaceState(null, '', location.pathname)
  }

  function begin(identity: Identity): void {
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws'
    link?.stop()
    link = new PadsLink(`${scheme}://${location.host}/feed`, identity, {
      state: (is) => {
        state.value = is
        if (is.is === 'refused' && is.why === 'expired') clean()
        if (is.is === 'refused' && is.why === 'unknown') kept.value = null
      },
      hear: (message) => {
        if (message.t === 'pads') pads.value = message.pads
        else if (message.t === 'desk') desk.value = message
        else if (message.t === 'arrivals') arrivals.value = joined(message.rows, arrivals.value)
        else if (message.t === 'now') {
          ahead.value = message.now - Date.now()
          house.value = message
        }
      },
      paired: (fresh) => {
        kept.value = fresh
        clean()
      },
    })
  }

  function look(): void {
    const identity = offerOf(location.hash) ?? kept.value
    if (identity) begin(identity)
  }

  async function ask(wish: PadsWish): Promise<void> {
    if (wish.do !== 'desk') navigator.vibrate?.(wish.do === 'press' ? 25 : 10)
    const why = (await link?.ask(wish)) ?? ''
    clearTimeout(quiet)
    said.value = why
    if (!why) return
    navigator.vibrate?.(WRONG)
    quiet = setTimeout(() => (said.value = ''), SAID_MS)
  }

  useEventListener(window, 'hashchange', look)
  useEventListener(window, 'online', () => link?.hurry())
  useEventListener(document, 'visibilitychange', () => {
    if (document.visibilityState === 'visible') link?.hurry()
  })
  look()
  const paired = computed(() => kept.value !== null || state.value.is !== 'connecting' || link !== null)
  return { state, paired, pads, house, rows, now, said, desk, arrivals, ask }
}
