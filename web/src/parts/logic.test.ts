/** The components that decide something, on a page of their own: what they show, and what they say. */
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import type { Condition } from '@/logic/conditions'
import { fresh } from '@/logic/conditions'
import TwoBooks from '@/pages/rehearse/TwoBooks.vue'
import PriceRule from '@/pages/rewards/PriceRule.vue'
import LampsSetup from '@/pages/rig/LampsSetup.vue'
import ConditionList from './ConditionList.vue'
import DurationField from './DurationField.vue'
import PatternPainter from './gear/PatternPainter.vue'
import { mounted, open, press, texts, type, unmount } from './mounted'
import NamesField from './NamesField.vue'
import ReportCard from './night/ReportCard.vue'
import TraceList from './TraceList.vue'
import VolumeField from './VolumeField.vue'

const there = vi.hoisted(() => ({
  book: {} as Record<string, unknown>,
  put: [] as unknown[],
  asked: [] as [string, unknown][],
  answers: {} as Record<string, unknown>,
  scenes: {} as Record<string, unknown>,
  touches: [] as unknown[],
}))
vi.mock('@/api/client', async (real) => {
  const ask = async (path: string, init: { body?: unknown } = {}): Promise<unknown> => {
    there.asked.push([path, init.body])
    const data = there.answers[path]
    return data === undefined
      ? { error: { what: 'no', do: '', problems: [] }, response: { ok: false, status: 404 } }
      : { data, response: { ok: true, status: 200 } }
  }
  return { ...(await real<object>()), api: { GET: ask, POST: ask, PUT: ask } }
})
vi.mock('@/composables/useBook', () => ({
  useBook: () => ({
    ...there,
    version: 1,
    put: (kind: string, value: object) => void there.put.push([kind, value]),
  }),
}))
vi.mock('@/composables/useGear', () => ({
  useGear: () => ({
    broadcast: { scenes: there.scenes },
    catalogue: { haptics: { touches: there.touches } },
    load: async () => {},
  }),
}))
vi.mock('@/composables/useReasons', () => ({
  useReasons: () => ({ value: { lane_full: 'the lane is full' }, __v_isRef: true }),
}))

beforeEach(() => {
  there.put.length = there.asked.length = there.touches.length = 0
  there.book = { cues: [], gear: [], counts: [], house: { points_per_min: 10 } }
  there.answers = {}
  there.scenes = {}
})
afterEach(unmount)

it('a duration is read as people write it, and says what is wrong with it', async () => {
  const { root, said } = await mounted(DurationField, 20, { least: 1 })
  const shown = (): string | undefined => root.querySelector('input')?.value
  expect(shown()).toBe('20 s')
  await type(root, '1:30')
  expect([said, shown()]).toEqual([[90], '1 min 30 s'])
  await type(root, 'soon')
  expect([said, texts(root, '.word')]).toEqual([[90], ['Write it as 20, 20s, 1.5m, 250ms or 1:30.']])
  await type(root, '250ms')
  expect([said, texts(root, '.word')]).toEqual([[90], ['At least 1 s.']])
})

it('a volume has its decibels', async () => {
  const { root, said } = await mounted(VolumeField, 50, { name: 'Volume' })
  expect(texts(root, '.volume > span')[0]).toBe('Volume −6 dB')
  await type(root, '0', '.el-input-number input')
  expect([said, texts(root, '.volume > span')[0]]).toEqual([[0], 'Volume silent'])
})

it('names are unique and tidy, and unknown ones are named, whatever their case', async () => {
  const { root, said, model } = await mounted(NamesField, ['Owlpost'], { known: ['owlpost', 'bramble_jo'] })
  expect(texts(root, '[role=status]')).toEqual([])
  model.value = ['Owlpost', 'saltmarsh']
  await nextTick()
  expect(texts(root, '[role=status]')).toEqual(['▲ There is no “saltmarsh”.'])
  const rows = await open(root)
  rows[1]?.click()
  await nextTick()
  expect(said).toEqual([['Owlpost', 'saltmarsh', 'bramble_jo']])
})

it('a condition is offered only if there is something to choose, and begins with the first of it', async () => {
  const { root, said } = await mounted(ConditionList, [], { outcomes: [{ value: 'pair', name: 'A pair' }] })
  const rows = await open(root)
  const offered = rows.map((row) => row.textContent)
  expect(offered).toContain('the roll comes out as…')
  expect(offered).not.toContain('the draw is…')
  expect(offered).not.toContain('this gear is connected…')
  rows.find((row) => row.textContent === 'the roll comes out as…')?.click()
  await nextTick()
  expect(said).toEqual([[fresh('rolled', { rolled: 'pair' })]])
})

it('a condition is reversed, filled in and removed', async () => {
  const first: Condition[] = [fresh('text_is'), fresh('number')]
  const { root, said } = await mounted(ConditionList, first, {})
  const last = (): Condition[] => said.at(-1) as Condition[]
  await press(root, '[data-test=condition-text_is] .not')
  expect([last()[0]?.not, texts(root, '.not')]).toEqual([true, ['not', 'if']])
  await type(root, '  tickets ', '[data-test=condition-words]')
  expect(last()[0]?.text_is).toBe('tickets')
  await type(root, ' ', '[data-test=condition-words]')
  expect(last()[0]?.text_is, 'empty words are none').toBe('tickets')
  await type(root, '', '[data-test=condition-number] input')
  expect(last()[1]?.text_from, 'one of the ends stays').toBe(1)
  await press(root, '[data-test=condition-text_is] [aria-label=Remove]')
  expect(last().map((one) => one.text_from)).toEqual([1])
})

it('a trace says which check failed and why, and what became of the run', async () => {
  const line = {
    trace: [
      { check: 'role', passed: true, detail: 'owlpost' },
      { check: 'lane', passed: false, reason: 'lane_full', detail: '12 wait' },
    ],
    notes: [
      { what: 'draw', beat: 'poster', drawn: ['Fog', 'Owl'], jar: 'posters' },
      { what: 'drop', as: 'stale' },
    ],
  }
  const { root } = await mounted(TraceList, null, { line })
  expect(texts(root, 'li.no')).toEqual([expect.stringContaining('the lane is full, 12 wait')])
  expect(texts(root, '.note')).toEqual(['poster drew Fog, Owl from posters', 'dropped: waited too long'])
  const blank = ['start', 'draw', 'roll', 'fail', 'won', 'finish'].map((what) => ({ what }))
  const { root: forgotten } = await mounted(TraceList, null, { line: { trace: [], notes: blank } })
  expect(texts(forgotten, '.note'), 'of a forgotten viewer').toEqual([
    'started',
    'drew',
    'rolled',
    'failed',
    'a forgotten viewer won',
    'finished',
  ])
  await mounted(TraceList, null, { line: { trace: [], notes: [] } })
  expect(document.body.textContent).toContain('The door wasn’t checked.')
})

it('a price says what it costs in watching, and a first price gets one for after it', async () => {
  there.answers['/api/rewards/curve'] = []
  const reward = {
    cost: 900,
    price: { kind: 'fixed', factor: 2, half_life_s: 600, least: 1, most: 1e7, step: 1 },
  }
  const { root, said } = await mounted(PriceRule, null, { reward }, { hears: ['change'] })
  expect(texts(root, '.worth')).toEqual(['1.5 h of watching'])
  root.querySelectorAll<HTMLInputElement>('.el-segmented input')[1]?.click()
  await nextTick()
  expect(said).toEqual([['change', { price: { ...reward.price, kind: 'first', then: 225 } }]])
  expect(there.asked[0]).toEqual(['/api/rewards/curve', { cost: 900, price: reward.price, per_hour: 6 }])
})

it('lamps and groups get free ids, and what is wrong with a lamp is said by its name', async () => {
  const fixtures = [{ id: 'lamp', name: 'Signal', profile: 'rgb', universe: 1, gamma: 2.2, exempt: false }]
  const groups = [{ id: 'group', name: 'Yard', fixtures: ['lamp'] }]
  there.book = { gear: [{ id: 'lamps', kind: 'lights', fixtures, groups }] }
  there.answers['/api/gear/{gear_id}/lamps'] = [{ id: 'lamp', problem: 'It overlaps with Key.' }]
  const { root } = await mounted(LampsSetup, null, { gear: { id: 'lamps', properties: [] } })
  await vi.waitFor(() => expect(texts(root, 'p.wrong')).toEqual(['Signal: It overlaps with Key.']))
  await press(root, '[data-test=add-lamp]')
  expect(there.put).toEqual([
    ['gear', expect.objectContaining({ fixtures: [fixtures[0], { id: 'lamp-2', name: 'Lamp 2' }], groups })],
  ])
  await press(root, '[aria-label="Take the group Yard away"]')
  expect(there.put[1]).toEqual(['gear', expect.objectContaining({ fixtures, groups: [] })])
})

it('frames of a pattern are copied between their neighbours, moved in order, and one always stays', async () => {
  there.answers['/api/patterns/fit'] = { pads: {} }
  const frame = (at_s: number, level: number) => ({ at_s, levels: { a: level }, curve: 'line' })
  const places = { a: { side: 'front', x: 0.5, y: 0.5, size: 0.2 } }
  const pattern = { id: 'knock', name: 'Knock', places, frames: [frame(0, 1), frame(0.5, 0)], length_s: 0.6 }
  const { root, model } = await mounted(PatternPainter, pattern, {})
  const made = model.value as typeof pattern
  const times = (): number[] => made.frames.map((one) => one.at_s)
  expect(texts(root, '.note')[0]).toContain('the pattern’s own places')
  await press(root, '[data-test=copy-frame]')
  expect([times(), made.frames[1]?.levels]).toEqual([[0, 0.25, 0.5], { a: 1 }])
  await type(root, '0.8', '.duration input')
  expect([times(), made.length_s]).toEqual([[0, 0.5, 0.8], expect.closeTo(0.85)])
  for (let n = 0; n < 3; n += 1) await press(root, '.side button:nth-of-type(2)')
  expect(times()).toEqual([0])
})

const spread = (median: number, low = median, high = median): object => ({ median, low, high })

it('of two books, what differs is shown, and whether it is better', async () => {
  const shift = (by: number) => ({ before: spread(8), after: spread(8 + by), by: spread(by) })
  const rehearsal = {
    told: ['now', 'tomorrow'],
    differ: Array.from({ length: 10 }, (_, n) => `Cue ${n} is new`),
    shifts: {
      refunds: shift(-3),
      dropped: shift(2),
      let_in: shift(1),
      redemptions: shift(0),
      held: shift(0.0004),
      wait_p95_s: shift(0.0004),
    },
    words: {
      refunds: 'refunds',
      dropped: 'dropped',
      let_in: 'let in',
      redemptions: 'redemptions',
      held: 'held',
      wait_p95_s: 'wait',
    },
    books: [{ nights: 3 }],
  }
  const { root } = await mounted(TwoBooks, null, { rehearsal })
  expect(texts(root, 'tbody b')).toEqual(['−3', '+2', '+1', '±0 %', '±0 s'])
  expect(texts(root, '.better b, .worse b')).toEqual(['−3', '+2'])
  expect(texts(root, '.differ li').at(-1)).toBe('2 more')
  await press(root, '.same')
  expect(texts(root, 'tbody tr')).toHaveLength(6)
  const alike = { ...rehearsal, differ: [], assumed: ['Speech durations are estimates.'] }
  expect((await mounted(TwoBooks, null, { rehearsal: alike })).root.textContent).toContain(
    'come from the assumptions: Speech durations are estimates.',
  )
})

it('every figure of a night opens the calls behind it; of several nights, the middle counts', async () => {
  const night = {
    nights: 3,
    result: {
      refunds: 9,
      turned_away: { lane_full: 2, role: 5 },
      luckiest: 'owlpost',
      luckiest_share: 0.5,
      waits_by_lane: { yard: { median_s: 1, p95_s: 4, longest_s: 9 } },
      spared_by_pauses: 2,
    },
    figures: { refunds: spread(4, 2, 9) },
  }
  const props = { night, words: { refunds: 'refunds', seen: 'seen' }, lanes: [{ id: 'yard', name: 'Yard' }] }
  const { root, said } = await mounted(ReportCard, null, props, { hears: ['calls'] })
  expect(texts(root, '[data-test=figure-refunds] span')).toEqual(['refunds', '2 to 9'])
  expect(texts(root, '[data-test=figure-refunds] b')).toEqual(['4'])
  const lists = texts(root, 'section section')
  expect(lists[0]).toMatch(/role5the lane is full2/)
  expect(lists.some((list) => list.includes('owlpost most let in50 %'))).toBe(true)
  expect(lists.some((list) => list.includes('refunds avoided by pausing2'))).toBe(true)
  await press(root, 'section section dd button')
  expect(said).toEqual([['calls', 'turned_away', 'role', 'role']])
})
