/** Durations as people type and read them. Seconds inside, three places. */

const UNITS: Record<string, number> = { ms: 0.001, s: 1, m: 60, min: 60, h: 3600 }

/** `20`, `20s`, `1.5m`, `250ms`, `1:30`, `1 min 30 s` in seconds; null for anything else. */
export function readDuration(text: string): number | null {
  const plain = text.trim().toLowerCase().replace(',', '.')
  const clock = /^(?:(\d+):)?(\d+):(\d{1,2}(?:\.\d+)?)\s*(?:min|h)?$/.exec(plain)
  if (clock) {
    const seconds = Number(clock[1] ?? 0) * 3600 + Number(clock[2]) * 60 + Number(clock[3])
    return Math.round(seconds * 1000) / 1000
  }
  const found = /^(\d+(?:\.\d*)?|\.\d+)\s*(ms|s|m|min|h)?$/.exec(plain)
  if (found) return Math.round(Number(found[1]) * (UNITS[found[2] ?? 's'] ?? 1) * 1000) / 1000
  const parts = /^(?:(\d+)\s*h)?\s*(?:(\d+)\s*m(?:in)?)?\s*(?:(\d+(?:\.\d+)?)\s*s)?$/.exec(plain)
  if (!plain || !parts) return null
  const [hours, minutes, seconds] = parts.slice(1).map((part) => Number(part ?? 0)) as [
    number,
    number,
    number,
  ]
  return Math.round((hours * 3600 + minutes * 60 + seconds) * 1000) / 1000
}

/** Seconds with their unit: `250 ms`, `4.2 s`, `1 min 30 s`. */
export function sayDuration(seconds: number): string {
  if (seconds > 0 && seconds < 0.995) return `${Math.round(seconds * 1000)} ms`
  if (seconds < 60) return `${Number(seconds.toFixed(2))} s`
  const whole = Math.round(seconds)
  const parts: [number, string][] = [
    [Math.floor(whole / 3600), 'h'],
    [Math.floor((whole % 3600) / 60), 'min'],
    [whole % 60, 's'],
  ]
  return parts
    .filter(([number]) => number)
    .map(([number, unit]) => `${number} ${unit}`)
    .join(' ')
}

/** The time left, for reading from afar: `0:07`, `1:30`; below ten seconds with a tenth. */
export function sayLeft(ms: number, roughly = false): string {
  const left = Math.max(0, ms)
  if (left < 10_000 && !roughly) return `${(Math.floor(left / 100) / 10).toFixed(1)} s`
  const seconds = Math.round(left / 1000)
  return seconds < 60
    ? `${seconds} s`
    : `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`
}

/** How long a viewer watches to earn something. */
export function sayMinutes(minutes: number): string {
  if (minutes < 1) return 'under a minute'
  if (minutes < 90) return `${Math.round(minutes)} min`
  const hours = minutes / 60
  return hours < 48 ? `${(Math.round(hours * 2) / 2).toString()} h` : `${Math.round(hours / 24)} days`
}
