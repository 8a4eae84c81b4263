/** Drags a block of the score: in time, onto another block's start or end to tie it there, or by its end to stretch it. */
import { ref, type Ref } from 'vue'
import type { AnyBeat } from '@/api/client'
import { followPointer } from '@/composables/followPointer'
import type { CueDraft } from '@/composables/useCueDraft'

interface Anchor {
  after: string
  edge: 'start' | 'end'
}

export function useBlockDrag(
  block: { readonly beat: AnyBeat; readonly perMs: number },
  draft: CueDraft,
  span: () => { start: number; end: number },
): {
  /** Its offset in pixels; null while it isn't moved. */
  drag: Ref<{ shift: number; stretch: number } | null>
  follow: (event: PointerEvent, how: 'shift' | 'stretch') => void
} {
  const drag = ref<{ shift: number; stretch: number } | null>(null)
  /** The edge that it would be tied to on release. */
  const anchor = ref<Anchor | null>(null)

  /** The edge of another block under the pointer: its left half means its start, its right half its end. */
  function edgeAt(event: PointerEvent): Anchor | null {
    for (const node of document.elementsFromPoint(event.clientX, event.clientY)) {
      const other = (node as HTMLElement).closest<HTMLElement>('[data-block]')
      const id = other?.dataset.block
      if (!other || !id || id === block.beat.id) continue
      const box = other.getBoundingClientRect()
      return { after: id, edge: event.clientX < box.left + box.width / 2 ? 'start' : 'end' }
    }
    return null
  }

  function moved(by: number): void {
    const at = Math.round((block.beat.start.at_s + by) * 1000) / 1000
    draft.change(block.beat.id, {
      start: { ...block.beat.start, at_s: block.beat.start.after ? at : Math.max(0, at) },
    })
  }

  function follow(event: PointerEvent, how: 'shift' | 'stretch'): void {
    const add = event.shiftKey || event.ctrlKey || event.metaKey
    draft.choose(block.beat.id, add)
    if (add) return
    const from = event.clientX
    drag.value = { shift: 0, stretch: 0 }
    const grid = (px: number, free: boolean): number => {
      const seconds = px / block.perMs / 1000
      return free ? Math.round(seconds * 1000) / 1000 : Math.round(seconds * 10) / 10
    }
    const move = (e: PointerEvent): void => {
      if (drag.value) drag.value[how] = grid(e.clientX - from, e.altKey) * 1000 * block.perMs
      anchor.value = how === 'shift' && Math.abs(e.clientX - from) > 3 ? edgeAt(e) : null
      mark()
    }
    const up = (e: PointerEvent): void => {
      const onto = anchor.value
      drag.value = anchor.value = null
      mark()
      const by = grid(e.clientX - from, e.altKey)
      if (e.type === 'pointercancel') return
      if (onto) draft.change(block.beat.id, { start: { at_s: 0, hit: 1, ...onto } })
      else if (by === 0) return
      else if (how === 'shift') moved(by)
      else {
        const s = Math.max(0.1, Math.round(((span().end - span().start) / 1000 + by) * 1000) / 1000)
        draft.change(block.beat.id, { length: { s } })
      }
    }
    followPointer(event, move, up)
  }

  /** Shows on the other block to which of its edges this one would be tied. */
  function mark(): void {
    for (const node of document.querySelectorAll<HTMLElement>('[data-anchor]')) delete node.dataset.anchor
    if (!anchor.value) return
    const other = document.querySelector<HTMLElement>(`[data-block="${anchor.value.after}"]`)
    if (other) other.dataset.anchor = anchor.value.edge
  }

  return { drag, follow }
}
