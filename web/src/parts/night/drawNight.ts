/** Draws a night's timeline: where everything lies, and what is under the pointer. */
import { clock, marked, type RunRow, type Timeline, type Window } from '@/logic/nights'
import { readPath } from '@/logic/paths'

export const LEFT = 104
const AXIS = 24
const ROW = 12
const GAP = 6
const THIN_GAP = 6
const THIN = 8
/** How many rows of a lane are drawn; a lane with more has thinner ones. */
const MOST_ROWS = 6
const MOST_HELD = 3

/** What is shown, sorted by how people perceive it. */
const SORTS: Record<string, string[]> = {
  'on screen': ['picture', 'clip', 'caption', 'chance', 'throw', 'burst', 'avatar', 'reply'],
  speech: ['speech'],
  sound: ['sound'],
  felt: ['haptics'],
}

export interface Band {
  kind: 'lane' | 'turned' | 'held' | 'shown' | 'quiet'
  name: string
  id: string
  top: number
  height: number
  row: number
}

/** The bands of a night, from the top; `height` is that of all. */
export function bandsOf(night: Timeline): { bands: Band[]; height: number } {
  const bands: Band[] = []
  let top = AXIS + 6
  const add = (kind: Band['kind'], id: string, name: string, height: number, row = height): void => {
    bands.push({ kind, id, name, top, height, row })
    top += height + (height > THIN ? GAP : THIN_GAP)
  }
  for (const lane of night.lanes) {
    const rows = Math.max(1, lane.rows)
    const row = rows > MOST_ROWS ? Math.max(3, (ROW * MOST_ROWS) / rows) : ROW
    add('lane', lane.id, lane.name, row * rows, row)
  }
  if (night.turned.length) add('turned', 'turned', 'refused', 16)
  const families = heldFamilies(night)
  for (const family of families) add('held', family, held(family), THIN)
  for (const [name, sorts] of Object.entries(SORTS))
    if (night.shown.some((span) => sorts.includes(span.what))) add('shown', name, name, THIN)
  if (night.quiet.length) add('quiet', 'quiet', 'quiet', THIN)
  return { bands, height: top }
}

/** A property's name beside its band: its thing and its setting. */
function held(path: string): string {
  const { steps } = readPath(path)
  return steps.length > 1 ? `${steps.at(-2)}: ${steps.at(-1)}` : (steps.at(-1) ?? path)
}

/** The properties that were held longest. */
function heldFamilies(night: Timeline): string[] {
  const time = new Map<string, number>()
  for (const span of night.held) time.set(span.what, (time.get(span.what) ?? 0) + span.end - span.begin)
  return [...time.entries()]
    .sort((a, b) => b[1] - a[1])
    .slice(0, MOST_HELD)
    .map(([what]) => what)
}

export interface Ink {
  ground: string
  line: string
  ink: string
  soft: string
  lanes: string[]
  no: string
  held: string
  shown: string
  now: string
  font: string
}

export function inkOf(node: HTMLElement): Ink {
  const style = getComputedStyle(node)
  const of = (token: string): string => style.getPropertyValue(token).trim()
  return {
    ground: of('--ground'),
    line: of('--line'),
    ink: of('--ink'),
    soft: of('--soft'),
    lanes: ['--marmalade', '--sage', '--slate', '--sand', '--plum', '--teal'].map(of),
    no: of('--berry'),
    held: of('--sky'),
    shown: of('--mint'),
    now: of('--straw'),
    font: of('--text'),
  }
}

interface Scene {
  night: Timeline
  window: Window
  width: number
  at: number
  chosen: string
  ink: Ink
}

function xOf(at: number, window: Window, width: number): number {
  return LEFT + ((at - window.from) / window.span) * (width - LEFT)
}
export function atOf(x: number, window: Window, width: number): number {
  return window.from + ((x - LEFT) / Math.max(1, width - LEFT)) * window.span
}

export function drawNight(context: CanvasRenderingContext2D, scene: Scene): void {
  const { night, window, width, ink } = scene
  const { bands, height } = bandsOf(night)
  const x = (at: number): number => xOf(at, window, width)
  const seen = (begin: number, end: number): boolean =>
    end >= window.from && begin <= window.from + window.span
  context.clearRect(0, 0, width, height)
  context.fillStyle = ink.ground
  context.fillRect(0, 0, width, height)
  context.font = `12px ${ink.font}`
  context.textBaseline = 'middle'

  // The axis, and its marks
  context.fillStyle = ink.soft
  const near = window.span < 600_000
  for (const at of marked(window, Math.max(2, (width - LEFT) / 90))) {
    context.fillRect(Math.round(x(at)), AXIS - 6, 1, height)
    context.globalAlpha = 0.25
    context.fillRect(Math.round(x(at)), AXIS, 1, height)
    context.globalAlpha = 1
    context.fillText(clock(at, near), x(at) + 4, 9)
  }
  context.save()
  context.globalAlpha = 0.82
  context.fillStyle = ink.ground
  context.fillRect(LEFT, AXIS, width, height)
  context.restore()

  const lane = new Map(bands.filter((band) => band.kind === 'lane').map((band, i) => [band.id, { band, i }]))
  context.save()
  context.beginPath()
  context.rect(LEFT, 0, width - LEFT, height)
  context.clip()
  for (const run of night.runs) {
    const there = lane.get(run.lane)
    if (!there || !seen(run.came, run.end ?? night.length)) continue
    const top = there.band.top + run.row * there.band.row
    const colour = ink.lanes[there.i % ink.lanes.length] ?? ink.ink
    if (run.start === null || run.start > run.came) {
      // A ghost: it waited.
      const until = run.start ?? run.end ?? night.length
      context.globalAlpha = 0.3
      context.fillStyle = colour
      context.fillRect(x(run.came), top + there.band.row / 2 - 1, Math.max(1, x(until) - x(run.came)), 2)
      context.fillRect(x(run.came), top + 2, 1.5, there.band.row - 4)
      context.globalAlpha = 1
    }
    if (run.start === null) continue
    const wide = Math.max(2, x(run.end ?? night.length) - x(run.start))
    context.fillStyle = run.call === scene.chosen ? ink.now : colour
    context.fillRect(x(run.start), top + 1, wide, there.band.row - 2)
    if (wide > 46 && there.band.row >= 11) {
      context.save()
      context.beginPath()
      context.rect(x(run.start), top, wide - 4, there.band.row)
      context.clip()
      context.fillStyle = ink.ground
      context.font = `700 11px ${ink.font}`
      context.fillText(run.name, x(run.start) + 4, top + there.band.row / 2 + 0.5)
      context.restore()
    }
  }
  for (const band of bands) {
    if (band.kind === 'turned') {
      for (const one of night.turned) {
        if (!seen(one.at, one.at)) continue
        context.fillStyle = one.call === scene.chosen ? ink.now : ink.no
        context.fillRect(x(one.at), band.top, 2, band.height)
      }
    } else if (band.kind === 'quiet') {
      context.fillStyle = ink.soft
      for (const [begin, end] of night.quiet as [number, number][])
        if (seen(begin, end)) context.fillRect(x(begin), band.top, x(end) - x(begin), band.height)
    } else if (band.kind !== 'lane') {
      context.fillStyle = band.kind === 'held' ? ink.held : ink.shown
      for (const span of band.kind === 'held' ? night.held : night.shown)
        if (lies(span.what, band.id) && seen(span.begin, span.end))
          context.fillRect(x(span.begin), band.top, Math.max(1.5, x(span.end) - x(span.begin)), band.height)
    }
  }
  for (const mark of night.marks) {
    if (!seen(mark.at, mark.at)) continue
    context.fillStyle = ink.held
    context.beginPath()
    context.moveTo(x(mark.at) - 5, AXIS - 7)
    context.lineTo(x(mark.at) + 5, AXIS - 7)
    context.lineTo(x(mark.at), AXIS + 1)
    context.fill()
  }
  context.fillStyle = ink.now
  context.fillRect(x(scene.at) - 1, 0, 2, height)
  context.restore()

  context.fillStyle = ink.soft
  context.font = `12px ${ink.font}`
  for (const band of bands) {
    const tall = band.kind === 'lane'
    context.fillStyle = tall ? ink.ink : ink.soft
    context.font = tall ? `700 14px ${ink.font}` : `12px ${ink.font}`
    context.fillText(cut(band.name), 6, band.top + (tall ? Math.min(band.height, ROW) : band.height) / 2 + 1)
  }
}

const MOST_LETTERS = 16
const cut = (name: string): string =>
  name.length > MOST_LETTERS ? `${name.slice(0, MOST_LETTERS - 1)}…` : name

const lies = (what: string, band: string): boolean => what === band || (SORTS[band]?.includes(what) ?? false)

export interface Hit {
  x: number
  words: string[]
  cue: string
  call: string
}

/** What is under the pointer, in words. */
export function hitOf(
  night: Timeline,
  window: Window,
  width: number,
  px: number,
  py: number,
  reasons: Record<string, string>,
): Hit | null {
  const { bands } = bandsOf(night)
  const at = atOf(px, window, width)
  const slack = (window.span / Math.max(1, width - LEFT)) * 4
  const mark = py < AXIS && night.marks.find((one) => Math.abs(one.at - at) < slack * 2)
  if (mark) return { x: px, words: [mark.words, clock(mark.at, true)], cue: '', call: '' }
  const band = bands.find((one) => py >= one.top - 2 && py <= one.top + one.height + 2)
  if (!band) return null
  if (band.kind === 'lane') {
    const row = Math.floor((py - band.top) / band.row)
    const run = night.runs.find(
      (one) =>
        one.lane === band.id &&
        one.row === row &&
        one.came - slack <= at &&
        (one.end ?? night.length) + slack >= at,
    )
    return run ? { x: px, words: wordsOf(run), cue: run.cue, call: run.call } : null
  }
  if (band.kind === 'turned') {
    const one = night.turned.find((row) => Math.abs(row.at - at) < slack)
    if (!one) return null
    const words = [
      `${one.viewer} was refused`,
      reasons[one.reason] ?? one.reason,
      one.text,
      clock(one.at, true),
    ]
    return { x: px, words: words.filter(Boolean), cue: one.cue, call: one.call }
  }
  if (band.kind === 'quiet') return { x: px, words: ['Nothing was shown'], cue: '', call: '' }
  const span = (band.kind === 'held' ? night.held : night.shown).find(
    (row) => lies(row.what, band.id) && row.begin - slack <= at && row.end + slack >= at,
  )
  if (!span) return null
  const run = night.runs.find((row) => row.run === span.run)
  const value = band.kind === 'held' ? `${span.what} is ${String(span.value)}` : span.what
  return {
    x: px,
    words: [value, run ? `${run.name}, ${run.viewer}` : ''].filter(Boolean),
    cue: run?.cue ?? '',
    call: run?.call ?? '',
  }
}

function wordsOf(run: RunRow): string[] {
  const waited =
    run.start === null ? 'Never started' : `it waited ${((run.start - run.came) / 1000).toFixed(1)} s`
  const lasted =
    run.start !== null && run.end !== null ? `lasted ${((run.end - run.start) / 1000).toFixed(1)} s` : ''
  return [run.name, run.viewer, run.text, [waited, lasted].filter(Boolean).join(', '), run.outcome].filter(
    Boolean,
  )
}
