/** Values in plain words. */
import type { Held } from '@/composables/useLive'

/** The meaning of a template with a single field. */
const FILLED: Record<string, string> = {
  '{{colour}}': 'the viewer’s colour',
  '{{number}}': 'the viewer’s number',
  '{{choice}}': 'the viewer’s choice',
  '{{text}}': 'the viewer’s text',
}

export function sayValue(value: unknown): string {
  if (value === null || value === undefined) return 'unknown'
  if (typeof value === 'object') return 'jar' in value ? 'one of a jar' : JSON.stringify(value)
  if (typeof value === 'boolean') return value ? 'on' : 'off'
  if (typeof value === 'number') return String(Math.round(value * 1000) / 1000)
  return FILLED[String(value).replace(/\s/g, '')] ?? String(value)
}

/** `ControlLeft+KeyM` as `Control+M`. */
export function sayKeys(combo: string): string {
  const cap = (code: string): string =>
    code.replace(/^(Control|Shift|Alt|Meta)Left$/, '$1').replace(/^(Key|Digit)(?=.$)/, '')
  return combo.split('+').map(cap).join('+')
}

export function sayReturn(held: Held): string {
  return held.layers > 1
    ? `under it: ${sayValue(held.returns_to)}`
    : `returns to ${sayValue(held.returns_to)}`
}

const WITH_SECONDS = new Intl.DateTimeFormat([], { hour: '2-digit', minute: '2-digit', second: '2-digit' })
const WITHOUT_SECONDS = new Intl.DateTimeFormat([], { hour: 'numeric', minute: '2-digit' })
const GROUPED = new Intl.NumberFormat([])

export function sayTime(ms: number): string {
  return WITH_SECONDS.format(ms)
}

/** The time of day without seconds, in the reader's language. */
export function sayClock(ms: number): string {
  return WITHOUT_SECONDS.format(ms)
}

/** A count, grouped as in the reader's language. */
export function sayNumber(count: number): string {
  return GROUPED.format(count)
}

export function saySize(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`
  return bytes < 1_000_000 ? `${Math.round(bytes / 1000)} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`
}
