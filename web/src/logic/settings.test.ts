import { expect, it } from 'vitest'
import type { Book, Schemas } from '@/api/client'
import { lanesOf, saidOfLane } from './lanes'
import { bridgesOf, firstValue, settingAt } from './settings'

const setting = (type: string, more: object = {}) =>
  ({ type, choices: [], max: null, ...more }) as unknown as Schemas['SettingOut']

it('a first value fits its setting', () => {
  const kinds = [
    undefined,
    setting('bool'),
    setting('number'),
    setting('number', { max: 40 }),
    setting('colour'),
  ]
  expect(kinds.map(firstValue)).toEqual([true, true, 1, 40, '#f0a23c'])
  expect([firstValue(setting('text')), firstValue(setting('choice', { choices: ['fog'] }))]).toEqual([
    'Mind the gap',
    'fog',
  ])
})

it('a setting is found by its path, whatever is in its names', () => {
  const [amount, angle] = [setting('number'), setting('number')]
  const catalogue = {
    broadcaster: { filters: { 'Bench/cam': { Fog: { amount } } }, things: {} },
    'things/yard': { filters: {}, things: { 'vane%2F': { settings: { angle } } } },
  } as unknown as Record<string, Schemas['CatalogueOut']>
  const paths = [
    'broadcast/filter/Bench%2Fcam/Fog/amount',
    'things/yard/vane%252F/angle',
    'broadcast/filter/Bench/cam/Fog/amount',
    'light/a/b',
  ]
  expect(paths.map((path) => settingAt(catalogue, path))).toEqual([amount, angle, undefined, undefined])
  const gear = [
    { id: 'yard', kind: 'kettles' },
    { id: 'box', kind: 'things' },
    { id: 'lamps', kind: 'lights' },
  ]
  expect(bridgesOf({ gear } as unknown as Book, catalogue).map((one) => one.id)).toEqual(['yard', 'box'])
})

it('cues without a lane are in the first, and a book without lanes has one', () => {
  const cues = [{ id: 'a' }, { id: 'b', lane: 'yard' }, { id: 'c', lane: 'main' }]
  const there = (lanes: object[]): string[][] =>
    lanesOf({ lanes, cues } as unknown as Book).map((row) => row.cues.map((cue) => cue.id))
  expect(there([{ id: 'main' }, { id: 'yard' }])).toEqual([['a', 'c'], ['b']])
  expect(there([])[0]).toContain('a')
})

it('says how full a lane is', () => {
  const said = (runs: number, width: number, waits: number): string => saidOfLane({ runs, width, waits })
  expect([said(0, 1, 0), said(2, 3, 1), said(4, 3, 1200)]).toEqual([
    'free',
    '2 of 3 on, 1 waits',
    '4 on, 1,200 wait',
  ])
})
