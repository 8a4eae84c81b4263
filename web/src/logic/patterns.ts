/** Patterns on a wearable: its pads' levels in a frame, and the pattern after painting one. */
import type { Schemas } from '@/api/client'

export type Pattern = Schemas['HapticPattern-Output']
export type Touch = Schemas['TouchOut']
/** The pads that play each place, by their ids. */
export type Fit = Record<string, string[]>

/** The places of a pattern that a pad plays. */
function placesAt(pad: string, fit: Fit): string[] {
  return Object.keys(fit).filter((place) => fit[place]?.includes(pad))
}

/** The level of each pad in a frame: the highest of its places. */
export function levelsOf(
  frame: Pattern['frames'][number] | undefined,
  pads: readonly Touch[],
  fit: Fit,
): number[] {
  return pads.map((pad) =>
    Math.max(0, ...placesAt(pad.id, fit).map((place) => Number(frame?.levels[place] ?? 0))),
  )
}

/** A pattern's own places as pads, while no wearable is known. */
export function ownPads(pattern: Pattern): Touch[] {
  return Object.entries(pattern.places).map(([id, place]) => ({ title: '', ...place, id }))
}

function freePlace(pattern: Pattern): string {
  let n = Object.keys(pattern.places).length + 1
  while (`p${n}` in pattern.places) n += 1
  return `p${n}`
}

/**
 * Paints a pad in a frame at a level, and returns the pads that play each place now. A place that other pads share is split
 * into one at each of them first, so that they keep their levels.
 */
export function painted(
  pattern: Pattern,
  frame: number,
  pad: Touch,
  level: number,
  pads: readonly Touch[],
  fit: Fit,
): { pattern: Pattern; fit: Fit } {
  const next = JSON.parse(JSON.stringify(pattern)) as Pattern
  const felt: Fit = { ...fit }

  function add(at: Touch): string {
    const place = freePlace(next)
    next.places[place] = { side: at.side, x: at.x, y: at.y, size: at.size }
    felt[place] = [at.id]
    return place
  }

  const mine: string[] = []
  for (const place of placesAt(pad.id, fit)) {
    const there = felt[place] ?? []
    if (there.length === 1) {
      mine.push(place)
      continue
    }
    for (const id of there) {
      const other = pads.find((one) => one.id === id)
      if (!other) continue
      const own = add(other)
      if (id === pad.id) mine.push(own)
      for (const one of next.frames) if (place in one.levels) one.levels[own] = one.levels[place]!
    }
    for (const one of next.frames) delete one.levels[place]
    delete next.places[place]
    delete felt[place]
  }
  const now = next.frames[frame]
  if (!now) return { pattern, fit }
  if (!mine.length && level > 0) mine.push(add(pad))
  for (const place of mine) {
    if (level > 0) now.levels[place] = level
    else delete now.levels[place]
  }
  // A place without a level in any frame is removed.
  for (const place of mine) {
    if (next.frames.some((one) => place in one.levels)) continue
    delete next.places[place]
    delete felt[place]
  }
  return { pattern: next, fit: felt }
}
