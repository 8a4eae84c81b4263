import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { makeTimers, type TimerRow } from './timers'

beforeEach(() => {
  vi.useFakeTimers({ now: 0 })
  document.body.replaceChildren()
})
afterEach(() => vi.useRealTimers())

const lines = (): string[] =>
  [...document.querySelectorAll('[data-timers] > div')].map((row) => row.textContent ?? '')
const row = (path: string, until: number | null): TimerRow => ({
  path,
  name: path,
  value: true,
  until,
  cue: 'Snow in the yard',
})

it('counts down to the second, says what is open, and lets go of what is over', () => {
  const take = makeTimers(Date.now)
  take([row('broadcast/source/Yard cam/Snow/visible', 62_400), row('keys/latch/mute', null)])
  expect(lines()[0]).toMatch(/1:03$/)
  expect(lines()[1]).toMatch(/open$/)
  vi.advanceTimersByTime(60_000)
  expect(lines()[0]).toMatch(/0:03$/)
  vi.advanceTimersByTime(3_000)
  expect(lines().length).toBe(1)
  take([])
  expect(lines()).toEqual([])
})

it('shows the first eight', () => {
  makeTimers(Date.now)(Array.from({ length: 12 }, (_, i) => row(`light/lamp-${i}/colour`, 9_000)))
  expect(lines().length).toBe(8)
})
