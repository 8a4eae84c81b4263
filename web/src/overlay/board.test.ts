import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { playBoard } from './board'
import type { ShowMessage } from './types'

let stop = (): void => {}
let calm = false
beforeEach(() => {
  calm = false
  vi.useFakeTimers({ now: 0 })
  vi.stubGlobal('matchMedia', () => ({ matches: calm }))
})
afterEach(() => {
  stop()
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

const NAMES = ['bramble_jo', 'hopper_kit', 'owlpost']

function board(look: object = {}, run = '7'): HTMLElement {
  const node = document.createElement('div')
  const whole = { names: NAMES, drawn: { id: 'v', name: 'owlpost' }, spin_s: 4, ...look }
  stop = playBoard(node, { run, beat: 'draw', at: 0, look: whole } as unknown as ShowMessage, Date.now)
  return node
}
const letters = (node: HTMLElement): string =>
  [...(node.lastElementChild?.children ?? [])].map((tile) => tile.textContent).join('')

it('the letters stop from left to right at the drawn one', () => {
  const node = board({ title: 'Guest <b>of the night</b>' })
  expect([node.firstElementChild?.textContent, node.querySelector('b')]).toEqual([
    'Guest <b>of the night</b>',
    null,
  ])
  vi.advanceTimersByTime(1_000)
  expect([letters(node), node.dataset.drawn]).not.toEqual(['OWLPOST', 'owlpost'])
  let begun = ''
  for (let n = 0; n < 20; n += 1) {
    vi.advanceTimersByTime(100)
    const now = letters(node)
    if (now.startsWith('OWL')) begun ||= now
  }
  expect(begun, 'some have stopped while others flip').not.toBe('')
  vi.advanceTimersByTime(300)
  expect([letters(node), node.dataset.drawn]).toEqual(['OWLPOST', 'owlpost'])
})

it('where less motion is asked for whole names follow each other', () => {
  calm = true
  const node = board()
  const seen = new Set<string>()
  for (let n = 0; n < 28; n += 1) {
    vi.advanceTimersByTime(100)
    seen.add(letters(node).toLowerCase())
  }
  expect([...seen].every((name) => NAMES.includes(name))).toBe(true)
  expect(seen.size).toBeLessThanOrEqual(6)
  vi.advanceTimersByTime(400)
  expect(letters(node)).toBe('OWLPOST')
})

it('a page that joins late shows the result, and a long name is cut', () => {
  vi.setSystemTime(60_000)
  const node = board({ drawn: { id: 'v', name: 'the_stationmaster_of_tinwhistle' } })
  expect(letters(node)).toBe('THE_STATIONMASTER…')
})

it('two pages flip alike', () => {
  const seen = (run: string): string => {
    vi.setSystemTime(0)
    const node = board({}, run)
    const shown: string[] = []
    for (let n = 0; n < 8; n += 1) {
      vi.advanceTimersByTime(140)
      shown.push(letters(node))
    }
    stop()
    return shown.join(' ')
  }
  expect(seen('7')).toBe(seen('7'))
})
