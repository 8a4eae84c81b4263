/** Follows a pointer over a frame, in fractions of its width and height; `dx`, `dy` are counted from where it went down. */
export function dragOn(
  frame: HTMLElement | undefined,
  event: PointerEvent,
  moved: (x: number, y: number, dx: number, dy: number) => void,
  done: () => void = () => {},
): void {
  const box = frame?.getBoundingClientRect()
  if (!box) return
  const node = event.currentTarget as HTMLElement
  node.setPointerCapture(event.pointerId)
  const { clientX, clientY } = event
  const move = (e: PointerEvent): void =>
    moved(
      (e.clientX - box.left) / box.width,
      (e.clientY - box.top) / box.height,
      (e.clientX - clientX) / box.width,
      (e.clientY - clientY) / box.height,
    )
  const up = (): void => {
    node.removeEventListener('pointermove', move)
    done()
  }
  node.addEventListener('pointermove', move)
  node.addEventListener('pointerup', up, { once: true })
}

export function within(value: number, least: number, most: number): number {
  return Math.min(most, Math.max(least, value))
}
