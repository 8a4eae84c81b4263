import { describe, expect, it } from 'vitest'
import type { LedgerLine } from '@/api/client'
import { arrivals, callerOf, toneOf } from './arrivals'

const line = (id: number, at: number, more: Partial<LedgerLine> = {}): LedgerLine => ({
  id,
  at,
  call: `x${id}`,
  kind: 'redemption',
  viewer: 'v1',
  viewer_name: 'owlpost',
  text: '',
  reward: 'tea',
  cost: 10,
  cue: 'tea',
  verdict: 'let_in',
  reason: '',
  detail: '',
  run: '',
  outcome: 'fulfilled',
  trace: [],
  notes: [],
  said: '',
  ...more,
})
const AWAY = { verdict: 'turned_away', reason: 'cooldown', outcome: 'refunded' }
const told = (rows: ReturnType<typeof arrivals>) => rows.map(({ line: one, times }) => [one.id, times])

describe('arrivals', () => {
  it.each([
    ['let in', line(1, 0), 'yes'],
    ['turned away', line(1, 0, AWAY), 'no'],
    ['let in and sent back', line(1, 0, { outcome: 'refunded' }), 'no'],
    ['left alone', line(1, 0, { verdict: 'ignored', outcome: '' }), 'plain'],
  ])('%s', (_, one, tone) => expect(toneOf(one)).toBe(tone))

  it('names who calls where no viewer does', () =>
    expect(['said', 'pad', 'mqtt'].map((kind) => callerOf({ kind }))).toEqual(['Phrase', 'Pad', 'mqtt']))

  it('folds what the same viewer calls at once, whatever comes of each of many', () => {
    const seven = [7, 6, 5, 4, 3, 2, 1].map((id) => line(id, id * 1000, AWAY))
    expect(told(arrivals(seven, 'all'))).toEqual([[7, 7]])
  })

  it.each<[string, LedgerLine[]]>([
    ['another viewer', [line(2, 1000, { viewer: 'v2' }), line(1, 0)]],
    ['another reward', [line(2, 1000, { reward: 'owl', cue: 'owl' }), line(1, 0)]],
    ['another verdict', [line(2, 1000, AWAY), line(1, 0)]],
    ['a while later', [line(2, 20_000), line(1, 0)]],
  ])('keeps apart %s', (_, lines) => expect(arrivals(lines, 'all')).toHaveLength(2))

  it('shows what is wanted', () => {
    const lines = [line(3, 3), line(2, 2, AWAY), line(1, 1, { verdict: 'ignored', outcome: '' })]
    expect(told(arrivals(lines, 'in'))).toEqual([[3, 1]])
    expect(told(arrivals(lines, 'away'))).toEqual([[2, 1]])
    expect(arrivals(lines, 'all')).toHaveLength(3)
  })
})
