import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { enter, leave } from './moves'

interface Move {
  frames: Keyframe[]
  ms: number
  currentTime: number
  onfinish?: () => void
  oncancel?: () => void
}
let moves: Move[]
let node: HTMLElement

beforeEach(() => {
  vi.useFakeTimers()
  moves = []
  node = document.createElement('div')
  node.animate = ((frames: Keyframe[], options: { duration: number }) => {
    const move: Move = { frames, ms: options.duration, currentTime: 0 }
    moves.push(move)
    return move
  }) as unknown as typeof node.animate
})
afterEach(() => vi.useRealTimers())

it('comes in from where it is said, and joins in the middle', () => {
  enter(node, 'from_left', 800, 300)
  expect(moves).toMatchObject([{ frames: [{ translate: '-110% 0' }, {}], ms: 800, currentTime: 300 }])
})

it('a move without a time of its own is still seen; what is over or wanted none is not', () => {
  enter(node, 'drop', 0, 0)
  enter(node, 'pop', 100, 0)
  enter(node, 'fade', 500, 500)
  enter(node, 'fade', 0, 0)
  enter(node, 'none', 900, 0)
  expect(moves.map((move) => move.ms)).toEqual([620, 260])
})

it('goes, and is gone once, however that ends', () => {
  const done = vi.fn()
  leave(node, 'fade', 400, done)
  expect(done).not.toHaveBeenCalled()
  moves[0]?.onfinish?.()
  expect(done).toHaveBeenCalledOnce()

  const stuck = vi.fn()
  leave(node, 'drop', 400, stuck)
  expect(moves[1]?.frames).toMatchObject([{}, { translate: '0 110%' }])
  vi.advanceTimersByTime(799)
  expect(stuck).not.toHaveBeenCalled()
  vi.advanceTimersByTime(1)
  expect(stuck, 'also where a hidden page never finishes its moves').toHaveBeenCalledOnce()
  moves[1]?.oncancel?.()
  expect(stuck).toHaveBeenCalledOnce()
  expect(done, 'nor again by its timer').toHaveBeenCalledOnce()
})

it('is gone at once where no exit is wanted', () => {
  const done = vi.fn()
  leave(node, 'none', 400, done)
  leave(node, 'fade', 0, done)
  expect(done).toHaveBeenCalledTimes(2)
  expect(moves).toEqual([])
})
