import { describe, expect, it, test } from 'vitest'
import { fresh } from './conditions'
import type { Book, Cue } from '@/api/client'
import { sayCalls, sayLane, sayPace, sayRule, sayText, sayWho, type Call } from './sentence'

const door = {
  who: ['everyone'],
  only_if: [],
  tier: 1,
  scenes: [],
  categories: [],
  cooldown_s: null,
  viewer_cooldown_s: null,
}
const cue = (more: Record<string, unknown> = {}, at: Record<string, unknown> = {}): Cue =>
  ({
    id: 'c',
    name: 'C',
    calls: [],
    entry: 'queue',
    lane: null,
    ...more,
    door: { ...door, ...at },
  }) as unknown as Cue
const book = {
  rewards: [{ id: 'tea', title: 'Tea', cost: 50 }],
  lanes: [
    { id: 'main', name: 'Yard' },
    { id: 'side', name: 'Siding' },
  ],
  house: { cooldown_s: 5, shared_cooldown_s: null },
} as unknown as Book

const CALLS: [Record<string, unknown>, string][] = [
  [{ kind: 'reward', reward: 'tea' }, 'Tea (50) is redeemed'],
  [{ kind: 'reward', reward: 'gone' }, 'a lost reward is redeemed'],
  [{ kind: 'chat', match: 'has_word', text: 'tea' }, 'a message has the word “tea”'],
  [{ kind: 'tip', from: 5, to: 10 }, 'someone tips 5 to 10'],
  [{ kind: 'tip', from: 5, to: null }, 'someone tips 5 or more'],
  [{ kind: 'follow' }, 'someone follows'],
  [{ kind: 'membership', tier: 2 }, 'someone becomes a member of tier 2 or above'],
  [{ kind: 'membership' }, 'someone becomes a member'],
  [{ kind: 'membership', months_from: 12 }, 'someone becomes a member, 12 or more months'],
  [
    { kind: 'membership', tier: 2, months_from: 3, months_to: 6, gifts_from: 5, gifts_to: 5 },
    'someone becomes a member of tier 2 or above, 3 to 6 months, 5 gifts',
  ],
  [{ kind: 'raid', from: null, to: 20 }, 'a raid of at most 20 comes'],
  [{ kind: 'hook', name: 'Parcel office' }, 'the hook Parcel office comes'],
  [{ kind: 'pad' }, 'its pad is pressed'],
  [{ kind: 'clock', every_min: 10 }, 'every 10 minutes on air'],
  [{ kind: 'clock', at_min: 90 }, 'at minute 90 of the stream'],
  [{ kind: 'clock', at_time: '21:30' }, 'at 21:30 while live'],
  [{ kind: 'stream', state: 'live' }, 'the stream goes live'],
  [{ kind: 'stream', state: 'ended' }, 'the stream ends'],
  [{ kind: 'scene', scene: 'Yard cam' }, 'the scene Yard cam comes up'],
]

describe('what calls a cue', () => {
  test.each(CALLS)('%o', (call, said) =>
    expect(sayCalls(cue({ calls: [call as unknown as Call] }), book)).toBe(said),
  )

  it('is its pad where nothing does, and any of several', () => {
    expect(sayCalls(cue(), book)).toBe('you press its pad')
    const calls = [{ kind: 'follow' }, { kind: 'pad' }] as unknown as Call[]
    expect(sayCalls(cue({ calls }), book)).toBe('someone follows, or its pad is pressed')
  })
})

test.each([
  [{}, 'anyone'],
  [{ who: ['member'], tier: 2 }, 'members of tier 2'],
  [{ who: ['follower', 'vip', 'moderator'] }, 'followers, VIPs and moderators'],
  [{ who: [] }, 'nobody'],
  [
    { scenes: ['Yard cam', 'Workbench'], categories: ['Gardening'] },
    'anyone while Yard cam or Workbench is on in Gardening',
  ],
  [
    { only_if: [fresh('text_is', { text_is: 'train' }), fresh('live', { not: true })] },
    'anyone if the text is train and not: you are live',
  ],
])('who may: %o', (at, said) => expect(sayWho(cue({}, at), book)).toBe(said))

test('when it can be called, as the cue says or the house', () => {
  const live = { ...book, house: { ...book.house, air: 'live' } } as Book
  expect(sayWho(cue(), live)).toBe('anyone while live')
  expect(sayWho(cue({}, { air: 'off' }), live)).toBe('anyone off air')
  expect(sayWho(cue({}, { air: 'any' }), live)).toBe('anyone')
})

test.each([
  [{}, 'once in 5 s (as the house)'],
  [{ cooldown_s: 0 }, 'as often as they like'],
  [{ cooldown_s: 60, viewer_cooldown_s: 3600 }, 'once a minute, each viewer once an hour'],
  [
    { cooldown_s: 90, cap_stream: 3, cap_window: { count: 2, per_s: 600 } },
    'once in 1:30 min, at most 3 a stream, 2 in 10:00 min',
  ],
])('how often: %o', (at, said) => expect(sayPace(cue({}, at), book)).toBe(said))

test.each([
  [{}, {}, ''],
  [{}, { cooldown_s: 5 }, ''],
  [
    {},
    { cooldown_s: 60, viewer_cooldown_s: 3600, cap_viewer: 2 },
    'once a minute; each viewer once an hour; at most 2 per viewer',
  ],
  [{ lane: 'side' }, { who: ['member'] }, 'members; waits its turn in Siding'],
  [{ entry: 'solo' }, { scenes: ['Yard cam'] }, 'while Yard cam is on; runs alone in Yard'],
])('what is not as usual: %o %o', (of, at, said) => expect(sayRule(cue(of as never, at), book)).toBe(said))

it('says lane and text', () => {
  expect(sayLane(cue(), book)).toBe('waits its turn in Yard')
  expect(sayLane(cue({ entry: 'solo', lane: 'side' }), book)).toBe('runs alone in Siding')
  expect(sayText(cue())).toBe('')
  expect(sayText(cue({}, { text: { need: true, kind: 'colour' } }))).toBe('with a colour')
  expect(sayText(cue({}, { text: { need: false, kind: 'any' } }))).toBe('maybe with a text')
})
