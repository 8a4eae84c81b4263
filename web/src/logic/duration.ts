/** Lengths as people type and read them. Seconds inside, three places. */

const UNITS: Record<string, number> = { ms: 0.001, s: 1, m: 60, min: 60, h: 3600 }

/** `20`, `20s`, `1.5m`, `250ms`, `1:30`, `1:30 min` in seconds; null for anything else. */
export function readDuration(text: string): number | null {
  const plain = text.trim().toLowerCase().replace(',', '.')
  const clock = /^(?:(\d+):)?(\d+):(\d{1,2}(?:\.\d+)?)\s*(?:min|h)?$/.exec(plain)
  if (clock) {
    const seconds = Number(clock[1] ?? 0) * 3600 + Number(clock[2]) * 60 + Number(clock[3])
    return Math.round(seconds * 1000) / 1000
  }
  const found = /^(\d+(?:\.\d*)?|\.\d+)\s*(ms|s|m|min|h)?$/.exec(plain)
  if (!found) return null
  return Math.round(Number(found[1]) * (UNITS[found[2] ?? 's'] ?? 1) * 1000) / 1000
}

/** Seconds with their unit: `250 ms`, `4.2 s`, `1:30 min`. */
export function sayDuration(seconds: number): string {
  if (seconds > 0 && seconds < 0.995) return `${Math.round(seconds * 1000)} ms`
  if (seconds < 60) return `${Number(seconds.toFixed(2))} s`
  const whole = Math.round(seconds)
  const rest = String(whole % 60).padStart(2, '0')
  if (whole < 3600) return `${Math.floor(whole / 60)}:${rest} min`
  return `${Math.floor(whole / 3600)}:${String(Math.floor((whole % 3600) / 60)).padStart(2, '0')}:${rest} h`
}

/** What is left, for reading from afar: `0:07`, `1:30`; below ten seconds with a tenth. */
export function sayLeft(ms: number): string {
  const left = Math.max(0, ms)
  if (left < 10_000) return `${(Math.floor(left / 100) / 10).toFixed(1)} s`
  const seconds = Math.round(left / 1000)
  return seconds < 60
    ? `${seconds} s`
    : `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`
}
