import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { playThrow } from './throw'
import type { ShowMessage } from './types'

/** What was drawn in the last frame: where, how visible, turned how far, and in which shape. */
let drawn: { x: number; y: number; seen: number; turn: number; shape: string }[] = []
let stop = (): void => {}
const LOOK = { landing: 'stick', linger_s: 1, size: 0.1, colour: '#3377aa', thickness: 0.5 }
/** Thrown after 1 s, in the air for 2 s, from the left edge to the middle, in an arc with half a turn. */
const THING = [1000, 2000, 0, 0.5, 0.5, 0.5, 0.25, 0.5, 'nose']

function canvas(): object {
  let now = { x: 0, y: 0, seen: 1, turn: 0, shape: '' }
  return {
    set globalAlpha(seen: number) {
      now.seen = seen
    },
    clearRect: () => (drawn = []),
    save: () => (now = { x: 0, y: 0, seen: 1, turn: 0, shape: '' }),
    restore: () => drawn.push(now),
    translate: (x: number, y: number) => Object.assign(now, { x, y }),
    rotate: (turn: number) => (now.turn = turn),
    roundRect: (...[, , , tall]: number[]) => (now.shape += ` ${Math.round(tall ?? 0)}`),
    quadraticCurveTo: () => (now.shape = 'drop'),
    arc: () => (now.shape ||= 'blot'),
    beginPath: () => {},
    fill: () => {},
    drawImage: () => (now.shape = 'picture'),
  }
}

beforeEach(() => {
  vi.useFakeTimers({ now: 0 })
  const made = canvas()
  vi.spyOn(HTMLCanvasElement.prototype, 'getContext').mockImplementation(() => made as never)
})
afterEach(() => {
  stop()
  vi.useRealTimers()
})

function thrown(look: object, things: unknown[][] = [THING], media: object[] = []): HTMLElement {
  const node = document.createElement('div')
  Object.defineProperties(node, { clientWidth: { value: 1000 }, clientHeight: { value: 500 } })
  const message = { run: '7', beat: 't', at: 0, look: { ...LOOK, ...look }, things, media }
  stop = playThrow(node, message as unknown as ShowMessage, Date.now)
  return node
}
function at(ms: number): (typeof drawn)[number] | undefined {
  vi.setSystemTime(ms - 20)
  vi.advanceTimersByTime(20)
  return drawn[0]
}

it('flies in its arc from where it is thrown to where it hits, and says what it hit', () => {
  const node = thrown({})
  expect(at(900)).toBeUndefined()
  expect(at(1020)?.x).toBeCloseTo(5, -1)
  const top = at(2000)
  expect([top?.x, top?.y, top?.shape]).toEqual([expect.closeTo(250, -1), expect.closeTo(125, -1), 'drop'])
  expect([node.dataset.hit, top?.turn]).toEqual(['', expect.closeTo(0, 1)])
  const hit = at(3020)
  expect([hit?.x, hit?.y, node.dataset.hit]).toEqual([500, 250, 'nose'])
})

it('sticks where it hit, fades at the end, and is gone', () => {
  thrown({})
  expect([at(3500)?.seen, at(3500)?.x]).toEqual([1, 500])
  expect(at(3850)?.seen).toBeCloseTo(0.5, 1)
  expect(at(4020)).toBeUndefined()
})

it('a drop runs down, further and further, the same on every page', () => {
  thrown({ landing: 'run' })
  const long = (shape?: string): number[] => (shape ?? '').split(' ').slice(1).map(Number)
  const [early, late] = [at(3200), at(3700)]
  expect(long(late?.shape).every((one, i) => one > (long(early?.shape)[i] ?? 0))).toBe(true)
  stop()
  thrown({ landing: 'run' })
  expect(at(3700)).toEqual(late)
})

it('what bounces goes on from where it hit, back and then down', () => {
  thrown({ landing: 'bounce', linger_s: 2 })
  const [hit, after, later] = [at(3020), at(3300), at(4800)]
  expect([hit?.x, hit?.y]).toEqual([expect.closeTo(500, -1), expect.closeTo(250, -1)])
  expect((after?.x ?? 0) < (hit?.x ?? 0) && (after?.y ?? 0) < (hit?.y ?? 0)).toBe(true)
  expect((later?.y ?? 0) > (hit?.y ?? 0)).toBe(true)
})

it('pictures take turns, and turn as they fly', () => {
  vi.spyOn(HTMLImageElement.prototype, 'complete', 'get').mockReturnValue(true)
  vi.spyOn(HTMLImageElement.prototype, 'naturalWidth', 'get').mockReturnValue(10)
  thrown({}, [THING, [1000, 2000, 1, 0, 1, 1, 0, 0, 'hat']], [{ url: '/media/a' }, null as never])
  expect([at(2000)?.shape, drawn[1]?.shape]).toEqual(['picture', 'picture'])
  expect(drawn[0]?.turn).toBeCloseTo(Math.PI / 2, 1)
})
