/** What is held and up, run by run. */
import type { Held } from '@/composables/useLive'
import type { Schemas } from '@/api/client'
import { BEAT_KINDS, type BeatKindName } from '@/api/kinds'
import { markOf } from '@/parts/marks'
import { sayReturn, sayValue } from './words'
import { lastOf, readPath } from './paths'

type Running = Schemas['RunningRow']

/** A part of a run: properties that one beat holds at the same value, or a beat that is up. */
interface Part {
  key: string
  beat: string
  output: string
  what: string
  after: string
  swatch?: string
  since: number
  until: number | null
}

export interface RunHeld {
  run: string
  name: string
  viewer: string
  viewerId: string
  /** `the scene and Mail 2`. */
  what: string
  /** `back to Workbench`; empty if nothing has to go back. */
  back: string
  since: number
  until: number | null
  parts: Part[]
}

/** A look without its position among the lamps. */
const plain = (row: Held): string =>
  row.output === 'light' ? (sayValue(row.value).split(', ')[0] ?? '') : sayValue(row.value)

/** Whether the hold makes any difference. */
const changes = (row: Held): boolean => row.value !== row.returns_to

/** Joins properties that one beat holds at the same value (all lamps red). */
function together(held: readonly Held[]): { row: Held; things: string[] }[] {
  const rows = new Map<string, { row: Held; things: string[] }>()
  for (const row of held) {
    const alike = [row.run, row.beat, plain(row), row.layers, row.output, lastOf(row.path)]
    const key = row.output === 'light' ? JSON.stringify(alike) : row.path
    const there = rows.get(key)
    if (there) there.things.push(row.thing)
    else rows.set(key, { row, things: [row.thing] })
  }
  return [...rows.values()]
}

/** `a`, `a and b`, `a, b and 2 more`. */
export function inWords(names: string[]): string {
  const all = [...new Set(names)]
  if (all.length < 2) return all[0] ?? ''
  if (all.length === 2) return `${all[0]} and ${all[1]}`
  return `${all[0]}, ${all[1]} and ${all.length - 2 === 1 ? all[2] : `${all.length - 2} more`}`
}

const several = (things: string[]): string =>
  things.length > 1 ? `${things.length} lamps` : (things[0] ?? '')

/** Every run that holds something or is up, the next one to end first; open ones last. */
export function heldByRun(held: readonly Held[], running: readonly Running[]): RunHeld[] {
  const parts = new Map<string, Part[]>()
  const words = new Map<string, { what: string[]; back: string[] }>()
  const offered = new Map<string, Record<'available' | 'unavailable', string[]>>()
  const add = (run: string, part: Part, what: string, back: string): void => {
    parts.set(run, [...(parts.get(run) ?? []), part])
    const said = words.get(run) ?? { what: [], back: [] }
    said.what.push(what)
    if (back) said.back.push(back)
    words.set(run, said)
  }
  const shown = together(held.filter(changes))
  for (const { row, things } of shown) {
    const isOffer = readPath(row.path).family === 'reward' && lastOf(row.path) === 'on'
    const state = row.value ? 'available' : 'unavailable'
    const part = {
      key: row.path,
      beat: row.beat,
      output: row.output,
      what: isOffer
        ? `${row.thing}: ${state}`
        : `${things.length > 1 ? several(things) : row.name}: ${plain(row)}`,
      after: sayReturn(row),
      swatch: /^#[0-9a-f]{6}$/i.test(String(row.value)) ? String(row.value) : undefined,
      since: row.since,
      until: row.until,
    }
    if (isOffer) {
      const its = offered.get(row.run) ?? { available: [], unavailable: [] }
      its[state].push(row.thing)
      offered.set(row.run, its)
      parts.set(row.run, [...(parts.get(row.run) ?? []), part])
      continue
    }
    // A hidden source or a filter that is off needs no word.
    const goes = /^sound\/|\/(visible|on)$/.test(row.path)
    add(row.run, part, several(things), goes ? '' : sayValue(row.returns_to))
  }
  const holding = new Set(held.map((row) => `${row.run}/${row.beat}`))
  for (const run of running) {
    for (const beat of run.beats.filter((one) => !holding.has(`${run.run}/${one.beat}`))) {
      const lies = BEAT_KINDS[beat.kind as BeatKindName]?.way === 'hold'
      const part = {
        key: `${run.run}/${beat.beat}`,
        beat: beat.beat,
        output: beat.kind,
        what: `${markOf(beat.kind).name}: ${beat.beat}`,
        after: lies ? 'changed by hand, or below another' : 'disappears',
        since: run.started,
        until: beat.until,
      }
      add(run.run, part, lies ? `${beat.beat} (not on top)` : markOf(beat.kind).name.toLowerCase(), '')
    }
  }
  const rows = [...parts].map(([run, its]) => {
    const known = running.find((one) => one.run === run)
    const first = held.find((row) => row.run === run)
    const ends = its.map((part) => part.until)
    const backs = words.get(run)?.back ?? []
    return {
      run,
      name: known?.name ?? first?.cue ?? '',
      viewer: known?.viewer ?? first?.viewer ?? '',
      viewerId: known?.viewer_id ?? first?.viewer_id ?? '',
      what: [
        inWords(words.get(run)?.what ?? []),
        ...Object.entries(offered.get(run) ?? {}).map(([state, titles]) =>
          titles.length ? `${inWords(titles)} ${state}` : '',
        ),
      ]
        .filter(Boolean)
        .join(', '),
      back: backs.length ? `back to ${inWords(backs)}` : '',
      since: Math.min(...its.map((part) => part.since)),
      until: ends.includes(null) ? null : Math.max(...ends.map((end) => end ?? 0)),
      parts: its.sort((a, b) => (a.until ?? Infinity) - (b.until ?? Infinity)),
    }
  })
  return rows.sort((a, b) => (a.until ?? Infinity) - (b.until ?? Infinity))
}
