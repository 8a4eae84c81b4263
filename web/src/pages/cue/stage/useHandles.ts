/** The handles of items on the stage: drag, resize, snap to edges, thirds, the middle and other beats; several at once. */
import { useEventListener, useResizeObserver } from '@vueuse/core'
import Moveable from 'moveable'
import { nextTick, onMounted, onUnmounted, watch, type Ref } from 'vue'
import type { CueDraft, Place } from '@/composables/useCueDraft'
import { round4 } from '@/logic/arrange'

export function useHandles(
  frame: Ref<HTMLElement | undefined>,
  draft: CueDraft,
  free: Ref<boolean>,
): { hover: (event: MouseEvent | null) => void } {
  let moveable: Moveable | null = null
  let pressed = false
  let over: HTMLElement | null = null

  /** The position of a node in the frame, in pixels. */
  function boxOf(node: HTMLElement): Place | null {
    const outer = frame.value
    if (!outer) return null
    const box = outer.getBoundingClientRect()
    const own = node.getBoundingClientRect()
    return {
      x: own.left - box.left - outer.clientLeft,
      y: own.top - box.top - outer.clientTop,
      w: own.width,
      h: own.height,
    }
  }

  function commit(node: HTMLElement): void {
    const box = boxOf(node)
    const outer = frame.value
    if (!box || !outer) return
    const { clientWidth: width, clientHeight: height } = outer
    draft.change(node.dataset.beat ?? '', {
      place: {
        x: round4(box.x / width),
        y: round4(box.y / height),
        w: round4(box.w / width),
        h: round4(box.h / height),
      },
    })
  }

  /** During a drag its node is in pixels; afterwards it is in the frame's fractions again. */
  function toPixels(node: HTMLElement): void {
    const box = boxOf(node)
    if (!box) return
    Object.assign(node.style, {
      left: `${box.x}px`,
      top: `${box.y}px`,
      width: `${box.w}px`,
      height: `${box.h}px`,
    })
  }

  async function attach(): Promise<void> {
    await nextTick()
    if (!pressed) retarget()
  }

  /** The handles go to the item under the pointer, or to the selected one. */
  function retarget(): void {
    const ids = draft.picked.value.map((beat) => beat.id)
    const under = over?.isConnected ? over : null
    const several = ids.length > 1 && (!under || ids.includes(under.dataset.beat ?? ''))
    const nodes = several
      ? ids.flatMap((id) => frame.value?.querySelector<HTMLElement>(`[data-beat="${id}"]`) ?? [])
      : [
          under ??
            frame.value?.querySelector<HTMLElement>(`[data-beat="${draft.chosen.value ?? ''}"]`) ??
            null,
        ]
    aim(nodes.filter((node) => node !== null))
  }

  function aim(targets: HTMLElement[]): void {
    if (!moveable || !frame.value) return
    const box = frame.value.getBoundingClientRect()
    moveable.setState({
      target: targets.length > 1 ? targets : (targets[0] ?? null),
      elementGuidelines: [...frame.value.querySelectorAll<HTMLElement>('[data-beat]')].filter(
        (n) => !targets.includes(n),
      ),
      verticalGuidelines: [0, box.width / 3, box.width / 2, (box.width * 2) / 3, box.width],
      horizontalGuidelines: [0, box.height / 3, box.height / 2, (box.height * 2) / 3, box.height],
      keepRatio: !free.value,
    })
    // At once: a delayed one would take another target while this one is already being dragged.
    moveable.forceUpdate()
    moveable.updateRect()
  }

  onMounted(() => {
    if (!frame.value) return
    moveable = new Moveable(frame.value, {
      draggable: true,
      resizable: true,
      snappable: true,
      snapThreshold: 6,
      snapDirections: { left: true, top: true, right: true, bottom: true, center: true, middle: true },
      elementSnapDirections: { left: true, top: true, right: true, bottom: true, center: true, middle: true },
      origin: false,
      renderDirections: ['nw', 'ne', 'sw', 'se', 'n', 's', 'e', 'w'],
    })
    moveable
      .on('dragStart', ({ target }) => toPixels(target as HTMLElement))
      .on('drag', ({ target, left, top }) => {
        target.style.left = `${left}px`
        target.style.top = `${top}px`
      })
      .on('dragEnd', ({ target, isDrag }) => isDrag && commit(target as HTMLElement))
      .on('resizeStart', ({ target }) => toPixels(target as HTMLElement))
      .on('resize', ({ target, width, height, drag }) => {
        target.style.width = `${width}px`
        target.style.height = `${height}px`
        target.style.left = `${drag.left}px`
        target.style.top = `${drag.top}px`
      })
      .on('resizeEnd', ({ target, isDrag }) => isDrag && commit(target as HTMLElement))
    moveable
      .on('dragGroupStart', ({ targets }) => targets.forEach((target) => toPixels(target as HTMLElement)))
      .on('dragGroup', ({ events }) => {
        for (const { target, left, top } of events) {
          target.style.left = `${left}px`
          target.style.top = `${top}px`
        }
      })
      .on('dragGroupEnd', ({ targets, isDrag }) => {
        if (isDrag) targets.forEach((target) => commit(target as HTMLElement))
      })
    void attach()
  })
  // The frame changes its size with its surroundings: handles follow the nodes.
  useResizeObserver(frame, () => void attach())
  useEventListener(frame, 'mousedown', press, true)
  useEventListener(window, 'mouseup', letGo)

  /** A pressed item is dragged, even if the pointer was there too briefly to be noticed. */
  function press(event: MouseEvent): void {
    const node = event.target instanceof Element ? event.target.closest<HTMLElement>('[data-beat]') : null
    if (node) {
      over = node
      retarget()
    }
    pressed = true
  }

  function letGo(): void {
    pressed = false
    // After everybody has handled the mouse: the dragger comes last, and must not lose its item before.
    window.setTimeout(() => void attach())
  }

  onUnmounted(() => {
    moveable?.destroy()
  })
  watch([draft.picked, free, draft.beats], () => void attach(), { deep: true })

  /** The item under the pointer can be dragged at once; pressing selects it. */
  function hover(event: MouseEvent | null): void {
    over = (event?.currentTarget as HTMLElement | null) ?? null
    if (!event?.buttons) void attach()
  }

  return { hover }
}
