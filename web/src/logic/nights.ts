/** A night's view: the positions on its timeline, the calls behind a figure, and the drawn curve. */
import type { Schemas } from '@/api/client'
import { sayDuration } from './duration'

export type Timeline = Schemas['Timeline']
export type RunRow = Schemas['RunRow']
export type Audience = Schemas['Audience']
export type Spread = Schemas['SpreadOut']
export type CurvePoint = Schemas['CurvePoint']

/** A call of a night, let in or not. Times in ms from its beginning. */
export interface Call {
  at: number
  who: string
  cue: string
  text: string
  waited: number | null
  call: string
  cost: number
  outcome: string
  /** Why it was refused; empty: it was let in. */
  reason: string
  /** Whether it extended a run in progress. */
  extended: boolean
  lane: string
  kind: string
  /** The figures that it belongs to, apart from those of every call. */
  figures: string[]
}

/** Every call of a night in order. */
export function callsOf(night: Timeline): Call[] {
  const runs = night.runs.map((run) => ({
    at: run.came,
    who: run.viewer,
    cue: run.cue,
    text: run.text,
    waited: run.start === null ? null : run.start - run.came,
    call: run.call,
    cost: run.cost,
    outcome: run.outcome || run.as_,
    reason: '',
    extended: false,
    lane: run.lane,
    kind: run.kind,
    figures: run.figures,
  }))
  const others = [...night.turned, ...night.extended].map((one) => ({
    at: one.at,
    who: one.viewer,
    cue: one.cue,
    text: one.text,
    waited: null,
    call: one.call,
    cost: one.cost,
    outcome: one.outcome,
    reason: one.reason,
    extended: one.reason === '',
    lane: '',
    kind: one.kind,
    figures: [],
  }))
  return [...runs, ...others].sort((a, b) => a.at - b.at)
}

const LATE = 0.95

/** The calls behind a figure of the report; `more` narrows it (a reason, a lane, a cue, a viewer, a reward's cue). */
export function callsBehind(figure: string, calls: Call[], more = ''): Call[] {
  const waited = calls.filter((call) => call.waited !== null)
  const slowest = [...waited].sort((a, b) => (b.waited ?? 0) - (a.waited ?? 0))
  switch (figure) {
    case 'redemptions':
      return calls.filter((call) => call.kind === 'redemption')
    case 'seen':
    case 'heard':
    case 'felt':
    case 'held':
    case 'most_at_once':
    case 'haptics_limited':
    case 'flashes_softened':
    case 'sounds_over_others':
      return calls.filter((call) => call.figures.includes(figure))
    case 'let_in':
      return calls.filter((call) => !call.reason)
    case 'turned_away':
      return calls.filter((call) => call.reason && (!more || call.reason === more))
    case 'refunds':
    case 'points_refunded':
      return calls.filter((call) => call.outcome === 'refunded')
    case 'points_spent':
    case 'minutes_paid':
      return calls.filter((call) => call.outcome === 'fulfilled')
    case 'dropped':
      return calls.filter(
        (call) =>
          call.outcome.startsWith('dropped') || (!call.reason && call.waited === null && !call.extended),
      )
    case 'wait_median_s':
    case 'wait_longest_s':
      return slowest.filter((call) => !more || call.lane === more || call.cue === more)
    case 'wait_p95_s':
      return slowest.slice(0, Math.max(1, Math.ceil(slowest.length * (1 - LATE))))
    case 'viewer':
      return calls.filter((call) => call.who === more)
    default:
      return calls
  }
}

/** The visible part of a night: from, and how long (ms). */
export interface Window {
  from: number
  span: number
}

const LEAST_MS = 20_000

/** Zooms, with the instant `at` staying in place. */
export function zoomed(window: Window, factor: number, at: number, length: number): Window {
  const span = Math.min(length, Math.max(Math.min(LEAST_MS, length), window.span / factor))
  const share = window.span > 0 ? (at - window.from) / window.span : 0
  return within({ from: at - share * span, span }, length)
}

export function within(window: Window, length: number): Window {
  return { span: window.span, from: Math.min(Math.max(0, window.from), Math.max(0, length - window.span)) }
}

const STEPS_MIN = [1 / 12, 1 / 6, 0.5, 1, 2, 5, 10, 15, 30, 60]

/** The instants (ms) marked on the axis, at most about `most` of them. */
export function marked(window: Window, most: number): number[] {
  const step = (STEPS_MIN.find((one) => window.span / (one * 60_000) <= most) ?? 120) * 60_000
  const found: number[] = []
  for (let at = Math.ceil(window.from / step) * step; at <= window.from + window.span; at += step)
    found.push(at)
  return found
}

/** An instant as people write it: `1:04` (hours and minutes), with seconds when zoomed in. */
export function clock(ms: number, near = false): string {
  const seconds = Math.max(0, Math.round(ms / 1000))
  const told = `${Math.floor(seconds / 3600)}:${String(Math.floor(seconds / 60) % 60).padStart(2, '0')}`
  return near ? `${told}:${String(seconds % 60).padStart(2, '0')}` : told
}

/** A figure for people: shares in percent, seconds with their unit, counts plain. */
export function figure(name: string, value: number): string {
  if (['seen', 'heard', 'felt', 'held'].includes(name)) return `${Math.round(value * 100)} %`
  if (name.endsWith('_s')) {
    if (value >= 60) return sayDuration(Math.round(value))
    return `${Number(value.toFixed(1))} s`
  }
  return Number(value.toFixed(1)).toLocaleString()
}

/** A figure's words without its unit, which the value has. */
export const plain = (words: string): string => words.replace(/ \(s\)$/, '')

/** Median with the range, if there is one. */
export function spread(name: string, one: Spread): string {
  const middle = figure(name, one.median)
  return one.low === one.high ? middle : `${middle} (${figure(name, one.low)} to ${figure(name, one.high)})`
}

// The curve

export const HIGHEST = 100

/** How busy it is at a minute. */
export function levelAt(curve: CurvePoint[], minute: number): number {
  const first = curve[0]
  if (!first) return HIGHEST / 2
  if (minute <= first.at_min) return first.level
  for (let i = 1; i < curve.length; i += 1) {
    const [a, b] = [curve[i - 1], curve[i]]
    if (!a || !b || minute > b.at_min) continue
    const part = b.at_min > a.at_min ? (minute - a.at_min) / (b.at_min - a.at_min) : 1
    return a.level + (b.level - a.level) * part
  }
  return curve.at(-1)?.level ?? 0
}

const half = (value: number): number => Math.round(value * 2) / 2

/** The curve with a point moved; it stays between its neighbours. */
export function pointMoved(
  curve: CurvePoint[],
  index: number,
  minute: number,
  level: number,
  length: number,
  highest: number = HIGHEST,
): CurvePoint[] {
  const low = curve[index - 1]?.at_min ?? 0
  const high = curve[index + 1]?.at_min ?? length
  const at_min = half(Math.min(high, Math.max(low, minute)))
  const moved = { at_min, level: Math.round(Math.min(highest, Math.max(0, level))) }
  return curve.map((point, i) => (i === index ? moved : point))
}

/** Preset curves, for a night of this many minutes. */
export function curvesFor(length: number): { name: string; hint: string; curve: CurvePoint[] }[] {
  const drawn = (...points: [number, number][]): CurvePoint[] =>
    points.map(([share, level]) => ({ at_min: half(share * length), level }))
  const wave = (from: number): [number, number][] => [
    [from, 30],
    [from + 0.1, 90],
    [from + 0.3, 40],
  ]
  return [
    { name: 'Steady', hint: 'Constant all evening', curve: drawn([0, 50], [1, 50]) },
    {
      name: 'A rush at the start',
      hint: 'Most arrive at once, then it calms down',
      curve: drawn([0, 100], [0.1, 80], [0.35, 35], [1, 25]),
    },
    {
      name: 'Waves',
      hint: 'Three peaks, one per game',
      curve: drawn(...wave(0), ...wave(1 / 3), ...wave(2 / 3), [1, 30]),
    },
  ]
}

/** The lists of other events in an audience's night. */
export type ElseList = 'raids' | 'outages' | 'hands'
export type Else<K extends ElseList> = Audience[K][number]

/** One of the other events, moved: within the evening, and disconnections last at least a minute. */
export function elseMoved<K extends ElseList>(
  audience: Audience,
  list: K,
  index: number,
  fields: Partial<Else<K>>,
): Partial<Audience> {
  const rows = audience[list].map((row, i) => {
    if (i !== index) return row
    const moved = { ...row, ...fields }
    moved.at_min = Math.min(audience.length_min, Math.max(0, moved.at_min))
    if ('for_min' in moved) moved.for_min = Math.min(audience.length_min, Math.max(1, moved.for_min))
    return moved
  })
  return { [list]: rows }
}

export function elseWithout(audience: Audience, list: ElseList, index: number): Partial<Audience> {
  return { [list]: audience[list].filter((_, i) => i !== index) }
}

/** The curve with another point, and its index. A curve without any gets its two ends first. */
export function pointAdded(
  curve: CurvePoint[],
  minute: number,
  level: number,
  length: number,
): [CurvePoint[], number] {
  const flat = [
    { at_min: 0, level: HIGHEST / 2 },
    { at_min: length, level: HIGHEST / 2 },
  ]
  const point = { at_min: half(minute), level: Math.round(level) }
  const all = [...(curve.length ? curve : flat), point].sort((a, b) => a.at_min - b.at_min)
  return [all, all.indexOf(point)]
}

export function pointRemoved(curve: CurvePoint[], index: number): CurvePoint[] {
  const left = curve.filter((_, i) => i !== index)
  return left.some((point) => point.level > 0) ? left : curve
}

/** Parts of a whole (each 0 or more) with the edge after part `index` moved by a share of the whole. */
export function edgeMoved(parts: number[], index: number, share: number): number[] {
  const total = parts.reduce((sum, part) => sum + part, 0) || 1
  const [a, b] = [parts[index] ?? 0, parts[index + 1] ?? 0]
  const moved = Math.min(b, Math.max(-a, share * total))
  const at = (part: number): number => Math.round(part * 1000) / 1000
  return parts.map((part, i) => (i === index ? at(a + moved) : i === index + 1 ? at(b - moved) : part))
}

// Settings to try

export interface Setting {
  path: string
  name: string
  /** Its current value. */
  now: number | string
  range: [number, number, number] | null
  choices: string[]
}

const ENTRIES = ['queue', 'overlap', 'solo', 'replace', 'extend', 'refuse']

/** The settings of a book that can be tried: of lanes, cues' doors and rewards. */
export function settingsOf(book: Schemas['Book']): Setting[] {
  const found: Setting[] = []
  const number = (path: string, name: string, now: number, most: number, step: number): void => {
    const far = Math.max(most, now * 2)
    const wide = Math.max(step, Math.ceil(far / FEW / step) * step)
    const high = Math.ceil(far / wide) * wide
    found.push({ path, name, now, range: [path.endsWith('width') ? 1 : 0, high, wide], choices: [] })
  }
  for (const lane of book.lanes) {
    number(`lanes.${lane.id}.width`, `${lane.name}: runs at once`, lane.width, 6, 1)
    number(`lanes.${lane.id}.line`, `${lane.name}: longest line`, lane.line, 40, 4)
    number(`lanes.${lane.id}.wait_s`, `${lane.name}: longest wait (s)`, lane.wait_s, 300, 30)
    number(`lanes.${lane.id}.gap_s`, `${lane.name}: gap between runs (s)`, lane.gap_s, 20, 2)
  }
  for (const cue of book.cues) {
    number(`cues.${cue.id}.door.cooldown_s`, `${cue.name}: cooldown (s)`, cue.door.cooldown_s ?? 0, 120, 10)
    number(
      `cues.${cue.id}.door.viewer_cooldown_s`,
      `${cue.name}: cooldown per viewer (s)`,
      cue.door.viewer_cooldown_s ?? 0,
      600,
      60,
    )
    found.push({
      path: `cues.${cue.id}.entry`,
      name: `${cue.name}: entry`,
      now: cue.entry,
      range: null,
      choices: ENTRIES,
    })
  }
  for (const reward of book.rewards) {
    const top = Math.max(100, reward.cost * 3)
    const step = Math.max(10, Math.round(top / 12 / 10) * 10)
    number(`rewards.${reward.id}.cost`, `${reward.title}: price`, reward.cost, top, step)
  }
  number('house.cooldown_s', 'House: shared cooldown (s)', book.house.cooldown_s, 60, 5)
  number('house.viewer_cooldown_s', 'House: cooldown per viewer (s)', book.house.viewer_cooldown_s, 300, 30)
  return found
}

const FEW = 12
export const MOST_VALUES = 30

/** The values of a range; none if there would be more than `MOST_VALUES`. */
export function valuesOf(from: number, to: number, step: number): number[] {
  if (!(step > 0) || to < from || (to - from) / step >= MOST_VALUES) return []
  const found: number[] = []
  for (let i = 0; i < MOST_VALUES; i += 1) {
    const value = Math.round((from + i * step) * 1000) / 1000
    if (value > to + 1e-9) break
    found.push(value)
  }
  return found
}

/** A night by its day and hour. */
export function nightName(at: number): string {
  return new Date(at).toLocaleString([], {
    weekday: 'short',
    month: 'short',
    day: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    hour12: false,
  })
}
