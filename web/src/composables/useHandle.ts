/** A handle that is dragged, or moved by keys. */
import { shallowRef, type ShallowRef } from 'vue'
import { followPointer } from './followPointer'

/**
 * While it is dragged, `held` has the new value; it is reported on release; a cancelled drag changes nothing.
 */
export function useHandle<T>(tell: (value: T) => void): {
  held: ShallowRef<T | null>
  drag: (event: PointerEvent, at: (event: PointerEvent) => T | null) => void
} {
  const held: ShallowRef<T | null> = shallowRef(null)
  function drag(event: PointerEvent, at: (event: PointerEvent) => T | null): void {
    followPointer(
      event,
      (moved) => (held.value = at(moved)),
      (last) => {
        const there = held.value
        held.value = null
        if (there !== null && last.type === 'pointerup') tell(there)
      },
    )
  }
  return { held, drag }
}

/** Does what a key stands for; the page doesn't get it then. */
export function byKey(event: KeyboardEvent, keys: Partial<Record<string, () => void>>): void {
  const act = keys[event.key]
  if (!act) return
  act()
  event.preventDefault()
  event.stopPropagation()
}

/** Makes an element a slider for keys and screen readers. */
export function slider(label: string, now: number, least: number, most: number): Record<string, unknown> {
  return {
    role: 'slider',
    tabindex: 0,
    'aria-label': label,
    'aria-valuenow': now,
    'aria-valuemin': least,
    'aria-valuemax': most,
  }
}
