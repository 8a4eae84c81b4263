/** Arranges several things on the overlay: aligned to each other, over or under each other. */
import type { Place } from '@/composables/useCueDraft'

export type Align = 'left' | 'centre' | 'right' | 'top' | 'middle' | 'bottom' | 'same'

export const ALIGNS: { id: Align; name: string }[] = [
  { id: 'left', name: 'Left edges' },
  { id: 'centre', name: 'Centres' },
  { id: 'right', name: 'Right edges' },
  { id: 'top', name: 'Top edges' },
  { id: 'middle', name: 'Middles' },
  { id: 'bottom', name: 'Bottom edges' },
  { id: 'same', name: 'Same place' },
]

export function round4(value: number): number {
  return Math.round(value * 10_000) / 10_000
}

/** A place aligned to that of the first selected one. */
export function aligned(place: Place, to: Place, how: Align): Place {
  switch (how) {
    case 'left':
      return { ...place, x: to.x }
    case 'centre':
      return { ...place, x: round4(to.x + (to.w - place.w) / 2) }
    case 'right':
      return { ...place, x: round4(to.x + to.w - place.w) }
    case 'top':
      return { ...place, y: to.y }
    case 'middle':
      return { ...place, y: round4(to.y + (to.h - place.h) / 2) }
    case 'bottom':
      return { ...place, y: round4(to.y + to.h - place.h) }
    case 'same':
      return { ...to }
  }
}

/** Layers for all, bottom first, after some were moved above or below the rest. */
export function relayered(ids: string[], moved: string[], way: 'front' | 'back'): Map<string, number> {
  const rest = ids.filter((id) => !moved.includes(id))
  const those = ids.filter((id) => moved.includes(id))
  const order = way === 'front' ? [...rest, ...those] : [...those, ...rest]
  return new Map(order.map((id, layer) => [id, layer]))
}
