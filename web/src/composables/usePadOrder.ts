/** The cues that have a pad, in the house's order; and changes to order and faces, each as one step that can be undone. */
import { computed, type ComputedRef } from 'vue'
import type { Cue } from '@/api/client'
import { movedBefore } from '@/logic/pads'
import type { Face } from '@/parts/pads/marks'
import { useBook } from './useBook'

/** The server's order (`core.rules.pads`): cues that the house doesn't name come last. */
function padOrder(cues: Cue[], order: string[]): Cue[] {
  const place = new Map(order.map((id, i) => [id, i]))
  const at = (cue: Cue): number => place.get(cue.id) ?? order.length
  return [...cues].sort((a, b) => at(a) - at(b))
}

export function canBeHeld(cue: Cue): boolean {
  return cue.beats.some((beat) => 'length' in beat && beat.length === 'open')
}

export function usePadOrder(): {
  ordered: ComputedRef<Cue[]>
  withPad: ComputedRef<Cue[]>
  move: (cue: string, before: string | null) => Promise<void>
  face: (cue: Cue, change: Partial<Face>) => Promise<void>
} {
  const book = useBook()
  const ordered = computed(() => padOrder(book.book?.cues ?? [], book.book?.house.pads ?? []))
  const withPad = computed(() => ordered.value.filter((cue) => cue.on && cue.pad.on))

  async function move(cue: string, before: string | null): Promise<void> {
    if (cue === before) return
    const order = ordered.value.map((one) => one.id)
    await book.putHouse({ pads: movedBefore(order, cue, before) })
  }

  async function face(cue: Cue, change: Partial<Face>): Promise<void> {
    await book.put('cues', { ...cue, pad: { ...cue.pad, ...change } })
  }

  return { ordered, withPad, move, face }
}
