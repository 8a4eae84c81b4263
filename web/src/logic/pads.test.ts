import { describe, expect, it } from 'vitest'
import { keysOf, movedBefore, padWords, type PadNow } from './pads'

const row = (fields: Partial<PadNow>): PadNow => ({
  cue: 'bell',
  runs: 0,
  waits: 0,
  since: null,
  until: null,
  open: false,
  cools_until: null,
  ...fields,
})

describe('what a pad says', () => {
  it.each<[string, PadNow | undefined, string, boolean, number | null]>([
    ['nothing when idle', undefined, '', false, null],
    ['how long it is still on', row({ runs: 1, since: 0, until: 20_000 }), '15 s', true, 0.75],
    ['how long it is held', row({ runs: 1, since: 2000, open: true }), 'held 3.0 s', true, null],
    ['who waits', row({ runs: 1, since: 0, until: 10_000, waits: 2 }), '5.0 s, 2 wait', true, 0.5],
    ['one who waits', row({ waits: 1 }), '1 waits', false, null],
    ['how long it cools', row({ cools_until: 9500 }), 'ready in 4.5 s', false, null],
    ['nothing of what is over', row({ runs: 1, since: 0, until: 4000, cools_until: 4500 }), '', false, null],
  ])('%s', (_, given, words, lit, left) => expect(padWords(given, 5000)).toEqual({ lit, words, left }))
})

describe('dragging a pad', () => {
  it.each([
    [['a', 'b', 'c'], 'c', 'a', ['c', 'a', 'b']],
    [['a', 'b', 'c'], 'a', null, ['b', 'c', 'a']],
    [['a', 'b', 'c'], 'a', 'c', ['b', 'a', 'c']],
    [['a', 'b'], 'a', 'gone', ['b', 'a']],
  ])('%j: %s before %s', (order, moved, before, after) =>
    expect(movedBefore(order, moved, before)).toEqual(after),
  )
})

it('pads have their own keys, and the others the next that is free', () => {
  const pads = [
    { id: 'a', pad: {} },
    { id: 'b', pad: { key: 'q' } },
    { id: 'c', pad: { key: 'x' } },
    { id: 'd', pad: { key: 'q' } },
  ]
  expect([...keysOf(pads)].sort()).toEqual([
    ['a', 'w'],
    ['b', 'q'],
    ['c', 'x'],
    ['d', 'e'],
  ])
  const many = Array.from({ length: 12 }, (_, i) => ({ id: `p${i}`, pad: {} }))
  expect([...keysOf(many).values()].join('')).toBe('qwertyuiop')
})
