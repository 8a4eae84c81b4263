import { describe, expect, it, test } from 'vitest'
import { readDuration, sayDuration, sayLeft, sayMinutes } from './duration'
import said from './said.json'

describe('lengths as people type them', () => {
  test.each([
    ['20', 20],
    ['20s', 20],
    [' 1.5 M ', 90],
    ['250ms', 0.25],
    ['0,5', 0.5],
    ['.5s', 0.5],
    ['1:30', 90],
    ['1:02:03', 3723],
    ['1:30.25', 90.25],
    ['2 h', 7200],
    ['1 min 30 s', 90],
    ['1h 2m', 3720],
    ['2 h 0.5s', 7200.5],
    ['0.0004', 0],
  ])('%s is %d s', (text, seconds) => expect(readDuration(text)).toBe(seconds))

  test.each(['', 'soon', '-5', '1:2:3:4', '1:300', '5 days', '1e3', 'NaN'])('“%s” is none', (text) =>
    expect(readDuration(text)).toBeNull(),
  )
})

describe('lengths as people read them', () => {
  test.each(said.duration as [number, string][])('%d s is %s', (seconds, words) =>
    expect(sayDuration(seconds)).toBe(words),
  )

  it('is read back as it was said, to the hundredth', () => {
    for (const seconds of [0.25, 1, 4.2, 59.5, 90, 600])
      expect(readDuration(sayDuration(seconds))).toBeCloseTo(seconds, 2)
  })
})

test.each([
  [-5, '0.0 s'],
  [7049, '7.0 s'],
  [9999, '9.9 s'],
  [10_000, '10 s'],
  [59_499, '59 s'],
  [90_400, '1:30'],
])('%d ms are left as %s', (ms, said) => expect(sayLeft(ms)).toBe(said))

test('roughly, no tenths are said', () => {
  expect([9_640, 500, 90_000].map((ms) => sayLeft(ms, true))).toEqual(['10 s', '1 s', '1:30'])
})

test.each(said.watching as [number, string][])('%s minutes of watching', (minutes, words) =>
  expect(sayMinutes(minutes)).toBe(words),
)
