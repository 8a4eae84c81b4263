/** Values and properties in plain words. */
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

/** A property path for people: `broadcast/filter/Bench cam/Tint/colour` as `Bench cam, Tint colour`. */
export function sayPath(path: string): string {
  const [family, ...rest] = path.split('/')
  if (family === 'broadcast' && rest[0] === 'scene') return 'Scene'
  if (family === 'broadcast' && rest[0] === 'source') return `${rest[2]} in ${rest[1]}`
  if (family === 'broadcast' && rest[0] === 'filter')
    return `${rest[1]}, ${rest[2]}${rest[3] === 'on' ? '' : ` ${rest[3]}`}`
  if (family === 'light') return `${rest[0]} ${rest[1]}`
  if (family === 'avatar') return rest[1] ? `Face ${rest[1]}` : `Avatar’s ${rest[0]}`
  if (family === 'voice') return `Voice box ${rest[0]}`
  if (family === 'things') return `${rest[1]} ${rest[2]}`
  if (family === 'keys') return sayKeys(rest[0] ?? '')
  if (family === 'reward') return `${rest[0]} ${rest[1] === 'on' ? 'available' : rest[1]}`
  if (family === 'sound') return 'Other sounds'
  return `${family} ${rest.join(' ')}`
}

/** Several properties of one kind: `signal, flood colour`, or how many lamps there are. */
export function sayPaths(paths: string[]): string {
  const [first = ''] = paths
  if (paths.length < 2) return sayPath(first)
  const [, , what] = first.split('/')
  return paths.length > 2
    ? `${paths.length} lamps, ${what}`
    : `${paths.map((path) => path.split('/')[1]).join(', ')} ${what}`
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
