/** Opening night: five stations from an empty folder to a first call, and when each of them is done. */
import type { LedgerLine, Schemas } from '@/api/client'

export type StationId = 'hear' | 'seen' | 'move' | 'cue' | 'call'

export const STATIONS: { id: StationId; title: string; why: string }[] = [
  { id: 'hear', title: 'Hear the channel', why: 'so viewers’ calls arrive' },
  { id: 'seen', title: 'Be seen', why: 'so effects show on your stream' },
  { id: 'move', title: 'Move things', why: 'scenes, lamps, your avatar; it may wait' },
  { id: 'cue', title: 'A first cue', why: 'what happens when somebody calls' },
  { id: 'call', title: 'A first call', why: 'and watch it go all the way' },
]

export interface Facts {
  gear: { kind: string; state: string }[]
  pages: number
  /** A person's answer about the test. */
  seen: boolean
  heard: boolean
  /** How many cues do something and have no error. */
  cues: number
  lines: Pick<LedgerLine, 'kind' | 'verdict' | 'outcome' | 'run'>[]
  /** Whether a pretend viewer’s call succeeded completely. */
  pretended: boolean
}

const CHANNEL = 'channel'

export function trueNow(facts: Facts): Record<StationId, boolean> {
  const inStep = facts.gear.filter((one) => one.state === 'in_step')
  return {
    hear: inStep.some((one) => one.kind === CHANNEL),
    seen: facts.pages > 0 && facts.seen && facts.heard,
    move: inStep.some((one) => one.kind !== CHANNEL),
    cue: facts.cues > 0,
    call:
      facts.pretended ||
      facts.lines.some((line) => line.verdict === 'let_in' && line.outcome === 'fulfilled'),
  }
}

/** The open station: the first that is neither done nor skipped. */
export function openStation(
  done: Record<StationId, boolean>,
  leftOut: readonly StationId[],
): StationId | null {
  return STATIONS.find((one) => !done[one.id] && !leftOut.includes(one.id))?.id ?? null
}

/** The progress of a call. */
export interface Way {
  letIn: boolean
  up: boolean
  gone: boolean
  fulfilled: boolean
}

/** The progress of the call of a ledger line; `wasUp`: its run was seen running. */
export function wayOf(
  line: Pick<LedgerLine, 'verdict' | 'outcome' | 'run'> | undefined,
  running: readonly { run: string }[],
  wasUp: boolean,
): Way {
  const letIn = line?.verdict === 'let_in'
  const up = letIn && (wasUp || running.some((one) => one.run === line.run))
  return {
    letIn,
    up,
    gone: up && !running.some((one) => one.run === line?.run),
    fulfilled: line?.outcome === 'fulfilled',
  }
}

type Page = Schemas['PageTold']

/** The likely reasons why a test wasn't seen or heard, most likely first; `sure`: the page reports so. */
export function reasonsFor(
  missed: 'seen' | 'heard',
  pages: readonly Page[],
  size: { width: number; height: number },
): { what: string; mend: string; sure: boolean }[] {
  const blocked = pages.some((page) => page.blocked)
  const other = pages.find((page) => page.width && (page.width !== size.width || page.height !== size.height))
  const reasons = [
    {
      what: 'The browser blocks its sound.',
      mend: blocked ? 'The page says so: click it once.' : 'Click the page once, then test again.',
      sure: blocked,
    },
    {
      what: 'The page is muted, or hidden behind something.',
      mend: 'Check its position and its volume slider in your broadcasting program.',
      sure: false,
    },
    {
      what: `It isn’t ${size.width} × ${size.height}.`,
      mend: other
        ? `The page is ${other.width} × ${other.height}: set it to the size of the overlay.`
        : 'Set the page to the size of the overlay, then test again.',
      sure: other !== undefined,
    },
  ]
  const order = missed === 'heard' ? reasons : [reasons[2]!, reasons[1]!, reasons[0]!]
  return order.sort((a, b) => Number(b.sure) - Number(a.sure))
}
