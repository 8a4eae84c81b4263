import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { playChance } from './chance'
import { seeded } from './random'
import type { ShowMessage } from './types'

let stop = (): void => {}
beforeEach(() => vi.useFakeTimers({ now: 0 }))
afterEach(() => {
  stop()
  vi.useRealTimers()
})

const OUTCOMES = [
  { id: 'alike', name: 'Three alike', weight: 1 },
  { id: 'pair', name: 'A pair', weight: 1 },
]

function roll(look: object, faces: number[], outcome: string, run = '7'): HTMLElement {
  const node = document.createElement('div')
  const message = { run, beat: 'dice', at: 0, look, value: { faces, outcome } } as unknown as ShowMessage
  stop = playChance(node, message, Date.now)
  return node
}
const pips = (node: HTMLElement): number[] =>
  [...node.querySelectorAll('svg')].map((die) => die.querySelectorAll('circle').length)
const word = (node: HTMLElement): string =>
  (node.lastElementChild as HTMLElement).style.visibility === 'visible'
    ? (node.lastElementChild?.textContent ?? '')
    : ''
const still = (node: HTMLElement): boolean =>
  [...node.querySelectorAll<HTMLElement>('div > div > div')].every((box) => box.style.transform === 'none')

it('dice tumble, stop at what was rolled, and only then say what it is', () => {
  const node = roll({ dice: { count: 3, sides: 6 }, outcomes: OUTCOMES, spin_s: 2 }, [4, 4, 4], 'alike')
  vi.advanceTimersByTime(200)
  expect([still(node), word(node), node.dataset.outcome]).toEqual([false, '', undefined])
  vi.advanceTimersByTime(1150)
  expect(word(node), 'not before it has settled').toBe('')
  vi.advanceTimersByTime(100)
  expect([pips(node), still(node), word(node), node.dataset.outcome]).toEqual([
    [4, 4, 4],
    true,
    'Three alike',
    'alike',
  ])
})

it('every face has its pips, and those of many sides their number', () => {
  for (let face = 1; face <= 6; face += 1) {
    const node = roll({ dice: { count: 1, sides: 6 }, spin_s: 0.1 }, [face], 'x')
    vi.advanceTimersByTime(200)
    expect(pips(node)).toEqual([face])
    stop()
  }
  const twenty = roll({ dice: { count: 1, sides: 20 }, spin_s: 0.1 }, [6], 'x')
  vi.advanceTimersByTime(200)
  expect(twenty.querySelector('svg text')?.textContent).toBe('6')
})

it('a page that joins late shows the result at once', () => {
  vi.setSystemTime(60_000)
  const node = roll({ dice: { count: 2, sides: 6 }, outcomes: OUTCOMES }, [2, 5], 'pair')
  expect([pips(node), word(node)]).toEqual([[2, 5], 'A pair'])
})

it('two pages tumble alike, another run does not', () => {
  const seen = (run: string): string => {
    const node = roll({ dice: { count: 3, sides: 6 }, spin_s: 2 }, [1, 1, 1], 'x', run)
    vi.setSystemTime(0)
    const shown: string[] = []
    for (let n = 0; n < 20; n += 1) {
      vi.advanceTimersByTime(50)
      shown.push(pips(node).join())
    }
    stop()
    vi.setSystemTime(0)
    return shown.join(' ')
  }
  const first = seen('7')
  expect(seen('7')).toBe(first)
  expect(seen('8')).not.toBe(first)
})

it('a drum ends on its outcome, and shows names as text', () => {
  const outcomes = [
    { id: 'a', name: '<b>tea</b>', weight: 1 },
    { id: 'b', name: 'Kettle', weight: 1 },
  ]
  const node = roll({ outcomes, spin_s: 1 }, [2], 'b')
  expect(node.querySelector('b')).toBeNull()
  const strip = node.firstElementChild?.firstElementChild as HTMLElement
  expect(strip.children.length).toBe(5 * 2 + 2)
  expect(strip.lastElementChild?.textContent).toBe('Kettle')
  vi.advanceTimersByTime(900)
  expect(strip.style.transform).toBe('translateY(-605cqh)')
  expect(word(node)).toBe('Kettle')
})

it('says the outcome’s id where it has no name', () => {
  const node = roll({ outcomes: [], spin_s: 0.1 }, [1], 'gone')
  vi.advanceTimersByTime(200)
  expect(word(node)).toBe('gone')
})

it('the stream of numbers is the same for the same words, and even', () => {
  const [a, b] = [seeded('7/dice'), seeded('7/dice')]
  const drawn = Array.from({ length: 4000 }, a)
  expect(Array.from({ length: 4000 }, b)).toEqual(drawn)
  expect(Math.min(...drawn)).toBeGreaterThanOrEqual(0)
  expect(Math.max(...drawn)).toBeLessThan(1)
  expect(drawn.reduce((sum, one) => sum + one, 0) / 4000).toBeCloseTo(0.5, 1)
  for (let tenth = 0; tenth < 10; tenth += 1) {
    const inside = drawn.filter((one) => Math.floor(one * 10) === tenth).length
    expect(inside, `tenth ${tenth}`).toBeGreaterThan(320)
  }
})
