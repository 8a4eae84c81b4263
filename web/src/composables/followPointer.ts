/** Follows a pointer from press to release. */
import { useEventListener } from '@vueuse/core'

/** `done` is called with `pointercancel` too: then nothing was meant. */
export function followPointer(
  event: PointerEvent,
  moved: (event: PointerEvent) => void,
  done: (event: PointerEvent) => void = () => {},
): void {
  const node = event.currentTarget as HTMLElement
  node.setPointerCapture(event.pointerId)
  const stops = [
    useEventListener(node, 'pointermove', moved),
    useEventListener(node, ['pointerup', 'pointercancel'], (last: PointerEvent) => {
      stops.forEach((stop) => stop())
      done(last)
    }),
  ]
}
