import { describe, expect, it } from 'vitest'
import {
  callsBehind,
  callsOf,
  clock,
  curvesFor,
  edgeMoved,
  elseMoved,
  elseWithout,
  figure,
  levelAt,
  marked,
  pointAdded,
  pointMoved,
  pointRemoved,
  settingsOf,
  spread,
  valuesOf,
  within,
  zoomed,
  type Audience,
  type RunRow,
  type Timeline,
} from './nights'
import type { Book } from '@/api/client'

const run = (more: Partial<RunRow>): RunRow => ({
  run: '1',
  cue: 'tea',
  name: 'Tea',
  lane: 'yard',
  viewer: 'owl',
  text: '',
  call: 'c-1',
  cost: 100,
  came: 0,
  start: 0,
  end: 10,
  as_: 'ended',
  outcome: 'fulfilled',
  row: 0,
  kind: 'redemption',
  figures: [],
  ...more,
})
const night: Timeline = {
  length: 3_600_000,
  lanes: [],
  runs: [
    run({ came: 5000, start: 9000, figures: ['seen'] }),
    run({ call: 'c-2', came: 20_000, start: null, outcome: 'refunded', as_: '' }),
  ],
  turned: [
    {
      at: 1000,
      call: 'c-0',
      cue: 'tea',
      viewer: 'kettle',
      text: '',
      reason: 'lane_full',
      detail: '',
      cost: 100,
      outcome: 'refunded',
      kind: 'chat',
      run: '',
    },
  ],
  extended: [
    {
      at: 10_000,
      call: 'c-3',
      cue: 'tea',
      viewer: 'owl',
      text: '',
      reason: '',
      detail: '',
      cost: 120,
      outcome: 'fulfilled',
      kind: 'redemption',
      run: '1',
    },
  ],
  held: [],
  shown: [],
  quiet: [],
  marks: [],
  left_out: 0,
}

describe('the calls behind a figure', () => {
  const calls = callsOf(night)
  it('come in their order, with how long they waited', () => {
    expect(calls.map((call) => [call.at, call.waited, call.reason])).toEqual([
      [1000, null, 'lane_full'],
      [5000, 4000, ''],
      [10_000, null, ''],
      [20_000, null, ''],
    ])
  })
  it('are those that the figure counts', () => {
    expect(callsBehind('let_in', calls)).toHaveLength(3)
    expect(callsBehind('dropped', calls).map((call) => call.call)).toEqual(['c-2'])
    expect(callsBehind('turned_away', calls, 'lane_full')).toHaveLength(1)
    expect(callsBehind('turned_away', calls, 'closed')).toHaveLength(0)
    expect(callsBehind('refunds', calls).map((call) => call.call)).toEqual(['c-0', 'c-2'])
    expect(callsBehind('wait_longest_s', calls)[0]?.waited).toBe(4000)
    expect(callsBehind('viewer', calls, 'kettle')).toHaveLength(1)
    expect(callsBehind('redemptions', calls).map((call) => call.call)).toEqual(['c-1', 'c-3', 'c-2'])
    expect(callsBehind('seen', calls).map((call) => call.call)).toEqual(['c-1'])
    expect(callsBehind('haptics_limited', calls)).toEqual([])
  })
})

describe('the window', () => {
  it('zooms about an instant, never beyond the night', () => {
    const near = zoomed({ from: 0, span: 3_600_000 }, 4, 1_800_000, 3_600_000)
    expect(near).toEqual({ from: 1_350_000, span: 900_000 })
    expect(zoomed(near, 1 / 100, 0, 3_600_000)).toEqual({ from: 0, span: 3_600_000 })
    expect(zoomed(near, 1e9, 1_800_000, 3_600_000).span).toBe(20_000)
    expect(within({ from: 9e9, span: 900_000 }, 3_600_000).from).toBe(2_700_000)
  })
  it('is marked at round times', () => {
    expect(marked({ from: 0, span: 7_200_000 }, 9).map((at) => clock(at))).toEqual([
      '0:00',
      '0:15',
      '0:30',
      '0:45',
      '1:00',
      '1:15',
      '1:30',
      '1:45',
      '2:00',
    ])
    expect(clock(65_400, true)).toBe('0:01:05')
  })
})

describe('figures', () => {
  it('are read with their unit and range', () => {
    expect(figure('seen', 0.234)).toBe('23 %')
    expect(figure('wait_p95_s', 12.345)).toBe('12.3 s')
    expect(figure('longest_quiet_s', 185)).toBe('3 min 5 s')
    expect(spread('refunds', { median: 3, low: 1, high: 9 })).toBe('3 (1 to 9)')
    expect(spread('refunds', { median: 3, low: 3, high: 3 })).toBe('3')
  })
})

describe('the curve', () => {
  const curve = [
    { at_min: 0, level: 10 },
    { at_min: 60, level: 70 },
  ]
  it('goes straight in between', () => {
    expect(levelAt(curve, 30)).toBe(40)
    expect(levelAt(curve, 90)).toBe(70)
    expect(levelAt([], 5)).toBe(50)
  })
  it('keeps its points in order', () => {
    expect(pointMoved(curve, 1, -5, 500, 120)[1]).toEqual({ at_min: 0, level: 100 })
    const [more, index] = pointAdded(curve, 30.2, 40.4, 120)
    expect([more[index], more.length]).toEqual([{ at_min: 30, level: 40 }, 3])
    expect(pointAdded([], 30, 90, 120)[0].map((point) => point.at_min)).toEqual([0, 30, 120])
    expect(pointRemoved(curve, 0)).toEqual([curve[1]])
    expect(pointRemoved([{ at_min: 0, level: 5 }], 0)).toHaveLength(1)
  })
  it('begins with one of three, in the time there is', () => {
    for (const length of [1, 60, 1440]) {
      const [steady, rush, waves] = curvesFor(length).map((one) => one.curve)
      expect([levelAt(steady ?? [], 0), levelAt(steady ?? [], length / 2)]).toEqual([50, 50])
      expect(levelAt(rush ?? [], 0)).toBeGreaterThan(levelAt(rush ?? [], length / 2))
      const times = (waves ?? []).map((point) => point.at_min)
      expect(times).toEqual([...times].sort((a, b) => a - b))
      expect([times[0], times.at(-1)]).toEqual([0, length])
      expect((waves ?? []).filter((point) => point.level === 90)).toHaveLength(3)
    }
  })
  it('moves what else happens within the evening', () => {
    const audience = {
      length_min: 60,
      raids: [{ at_min: 10, viewers: 50 }],
      outages: [{ at_min: 20, for_min: 5, gear: 'lamps' }],
      hands: [],
    } as unknown as Audience
    expect(elseMoved(audience, 'raids', 0, { at_min: 99 })).toEqual({ raids: [{ at_min: 60, viewers: 50 }] })
    expect(elseMoved(audience, 'outages', 0, { at_min: -3 }).outages?.[0]?.at_min).toBe(0)
    expect(elseMoved(audience, 'outages', 0, { for_min: -9 }).outages?.[0]).toEqual({
      at_min: 20,
      for_min: 1,
      gear: 'lamps',
    })
    expect(elseWithout(audience, 'raids', 0)).toEqual({ raids: [] })
  })
  it('splits a whole at its edges', () => {
    expect(edgeMoved([0.4, 0.4, 0.2], 0, 0.1)).toEqual([0.5, 0.3, 0.2])
    expect(edgeMoved([0.4, 0.4, 0.2], 1, 0.9)).toEqual([0.4, 0.6, 0])
  })
})

describe('settings to be tried', () => {
  it('are named in words, with a range that holds what is now', () => {
    const book = {
      lanes: [{ id: 'yard', name: 'Yard', width: 1, line: 20, wait_s: 180, gap_s: 0, order: 'arrival' }],
      cues: [{ id: 'tea', name: 'Tea', entry: 'queue', door: { cooldown_s: 90 } }],
      rewards: [{ id: 'tea', title: 'Tea', cost: 250 }],
      house: { cooldown_s: 0, viewer_cooldown_s: 0 },
    } as unknown as Book
    const found = settingsOf(book)
    expect(found.find((one) => one.path === 'cues.tea.door.cooldown_s')).toMatchObject({
      now: 90,
      range: [0, 180, 20],
    })
    expect(found.find((one) => one.path === 'lanes.yard.width')?.range).toEqual([1, 6, 1])
    expect(found.find((one) => one.path === 'cues.tea.entry')?.choices).toContain('solo')
    expect(valuesOf(1, 4, 1)).toEqual([1, 2, 3, 4])
    expect(valuesOf(0, 1, 0)).toEqual([])
    expect(valuesOf(1, 30, 1)).toHaveLength(30)
    expect(valuesOf(0, 1000, 1)).toEqual([])
  })
})
