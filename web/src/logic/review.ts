/** Words and order of a review. */
import type { Schemas } from '@/api/client'

type Row = Schemas['EntryRow']

const KINDS: Record<string, string> = {
  house: 'The house',
  reading: 'Reading settings',
  points: 'Own points',
  playbill: 'The playbill',
  cues: 'Cues',
  rewards: 'Rewards',
  sets: 'Sets of rewards',
  lanes: 'Lanes',
  jars: 'Jars',
  media: 'Files',
  cast: 'Parts',
  patterns: 'Patterns',
  words: 'Word lists',
  gear: 'Gear',
  overlays: 'Overlays',
  inlets: 'Inlets',
  looks: 'Resting looks',
  audiences: 'Audiences',
}

/** The rows by kind: cues first, then what they need, then the house settings. */
export function grouped(rows: Row[]): { kind: string; title: string; rows: Row[] }[] {
  const order = Object.keys(KINDS)
  const once = new Set(['house', 'reading', 'points', 'playbill'])
  const kinds = [...order.filter((kind) => !once.has(kind)), ...once]
  return kinds
    .map((kind) => ({ kind, title: KINDS[kind] ?? kind, rows: rows.filter((row) => row.kind === kind) }))
    .filter((group) => group.rows.length)
}

export const STATES = { new: 'new', changed: 'changed', removed: 'removed' } as const

export const ORIGINS: Record<string, string> = {
  page: 'in the browser',
  import: 'imported',
  before: 'restored',
  channel: 'changed at the channel',
  gear: 'renamed on the gear',
  pads: 'from a pad',
  first: 'first version',
  mended: 'recovered',
}

/** A day in words, for a list divided by days. */
export function dayOf(at: number, now: number): string {
  const day = new Date(at)
  const days = Math.round(
    (new Date(now).setHours(0, 0, 0, 0) - new Date(at).setHours(0, 0, 0, 0)) / 86_400_000,
  )
  if (days === 0) return 'Today'
  if (days === 1) return 'Yesterday'
  const weekday = day.toLocaleDateString('en', { weekday: 'long' })
  return days < 7 ? weekday : day.toLocaleDateString('en', { weekday: 'long', day: 'numeric', month: 'long' })
}

export const timeOf = (at: number): string =>
  new Date(at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })
