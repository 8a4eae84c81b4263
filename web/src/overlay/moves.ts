/** Entrances and exits: how something comes onto the overlay and how it goes. */
import type { Entrance } from './types'

const FROM: Record<Entrance, Keyframe> = {
  none: {},
  fade: { opacity: 0 },
  from_left: { translate: '-110% 0', opacity: 0.2 },
  from_right: { translate: '110% 0', opacity: 0.2 },
  from_above: { translate: '0 -110%', opacity: 0.2 },
  from_below: { translate: '0 110%', opacity: 0.2 },
  pop: { scale: 0.2, opacity: 0 },
  drop: { translate: '0 -140%' },
}

const EASE: Partial<Record<Entrance, string>> = {
  pop: 'cubic-bezier(.2, 1.5, .4, 1)',
  drop: 'linear(0, 0.36 20%, 1 40%, 0.82 52%, 0.78 58%, 1 72%, 0.95 82%, 1)',
}

/** A move without a fade time still has to be visible. */
const LEAST_MS: Partial<Record<Entrance, number>> = { pop: 260, drop: 620 }

export function enter(node: HTMLElement, how: Entrance, ms: number, gone: number): void {
  const span = Math.max(ms, LEAST_MS[how] ?? 0)
  if (how === 'none' || span <= gone) return
  const move = node.animate([FROM[how], {}], { duration: span, easing: EASE[how] ?? 'ease-out' })
  move.currentTime = gone
}

/** Plays the exit and then calls `done`, once. */
export function leave(node: HTMLElement, how: Entrance, ms: number, done: () => void): void {
  if (how === 'none' || ms <= 0) {
    done()
    return
  }
  const move = node.animate([{}, FROM[how === 'drop' ? 'from_below' : how]], {
    duration: ms,
    easing: 'ease-in',
    fill: 'forwards',
  })
  let over = false
  const end = (): void => {
    if (over) return
    over = true
    window.clearTimeout(late)
    done()
  }
  const late = window.setTimeout(end, ms + 400)
  move.onfinish = end
  move.oncancel = end
}
