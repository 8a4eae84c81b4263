import type { AnyBeat } from '@/api/client'

/** Returns which beats with conditions lie below another one at the same place: below the chosen one, or else the first. */
export function coveredOn(beats: readonly AnyBeat[], chosen: string | null): Set<string> {
  const top = new Map<string, string>()
  const ordered = [
    ...beats.filter((beat) => beat.id === chosen),
    ...beats.filter((beat) => beat.id !== chosen),
  ]
  const covered = new Set<string>()
  for (const beat of ordered) {
    if (!(beat.only_if as unknown[] | undefined)?.length) continue
    const place = JSON.stringify(beat.place)
    if (top.has(place)) covered.add(beat.id)
    else top.set(place, beat.id)
  }
  return covered
}
