/** A pad's words about its cue: how long it is still on, how many wait, how long it cools down. */
import type { Schemas } from '@/api/client'
import { sayLeft } from './duration'

export type PadNow = Schemas['PadNow']

export interface PadWords {
  lit: boolean
  words: string
  /** The share that is left, 1 to 0; null if unknown. */
  left: number | null
}

const IDLE: PadWords = { lit: false, words: '', left: null }

export function padWords(row: PadNow | undefined, now: number): PadWords {
  if (!row) return IDLE
  const words: string[] = []
  let left: number | null = null
  const lit = row.runs > 0 && (row.until === null || row.until > now)
  if (lit && row.until !== null) {
    words.push(sayLeft(row.until - now))
    const whole = row.until - (row.since ?? row.until)
    left = whole > 0 ? Math.min(1, Math.max(0, (row.until - now) / whole)) : null
  } else if (lit) words.push(`held ${sayLeft(Math.max(0, now - (row.since ?? now)))}`)
  if (row.waits) words.push(`${row.waits} ${row.waits === 1 ? 'waits' : 'wait'}`)
  if (!lit && !row.waits && row.cools_until !== null && row.cools_until > now)
    words.push(`ready in ${sayLeft(row.cools_until - now)}`)
  return { lit, words: words.join(', '), left }
}

/** The default keys of pads, a row of the keyboard. */
const ROW = 'qwertyuiop'
export const PAD_KEYS = "abcdefghijklmnopqrstuvwxyz,.;'[]=-"

interface Keyed {
  id: string
  pad: { key?: string | null }
}

/** The key of each pad: its own, or the next free one of the upper row. The first of two with the same key gets it. */
export function keysOf(pads: readonly Keyed[]): Map<string, string> {
  const keys = new Map<string, string>()
  const taken = new Set<string>()
  for (const { id, pad } of pads) {
    if (!pad.key || taken.has(pad.key)) continue
    keys.set(id, pad.key)
    taken.add(pad.key)
  }
  const free = [...ROW].filter((key) => !taken.has(key))
  for (const { id } of pads) {
    const next = keys.has(id) ? undefined : free.shift()
    if (next) keys.set(id, next)
  }
  return keys
}

/** The order after one is put before another (or at the end). */
export function movedBefore(order: string[], moved: string, before: string | null): string[] {
  const rest = order.filter((id) => id !== moved)
  const at = before === null ? -1 : rest.indexOf(before)
  return at < 0 ? [...rest, moved] : [...rest.slice(0, at), moved, ...rest.slice(at)]
}
