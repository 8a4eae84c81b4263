import { followPointer } from '@/composables/followPointer'

/** Follows a pointer over a frame, in fractions of its width and height; `dx`, `dy` count from where it was pressed. */
export function dragOn(
  frame: HTMLElement | undefined,
  event: PointerEvent,
  moved: (x: number, y: number, dx: number, dy: number) => void,
  done: () => void = () => {},
): void {
  const box = frame?.getBoundingClientRect()
  if (!box) return
  const { clientX, clientY } = event
  followPointer(
    event,
    (e) =>
      moved(
        (e.clientX - box.left) / box.width,
        (e.clientY - box.top) / box.height,
        (e.clientX - clientX) / box.width,
        (e.clientY - clientY) / box.height,
      ),
    done,
  )
}

export function within(value: number, least: number, most: number): number {
  return Math.min(most, Math.max(least, value))
}
