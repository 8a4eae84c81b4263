import { expect, it, test } from 'vitest'
import type { AnyBeat, Schemas } from '@/api/client'
import { BEAT_KINDS, type BeatKindName } from '@/api/kinds'
import { BEAT_NAMES, BEATS, sayBeat } from '.'
import type { Around } from './kind'

const nothing: Around = { book: null, cue: null, catalogue: {} }
const gear = (more: object): Schemas['CatalogueOut'] =>
  ({ scenes: {}, filters: {}, names: {}, ...more }) as never
const halt: Around = {
  book: {
    rewards: [{ id: 'tea' }],
    gear: [
      { id: 'box', kind: 'hook' },
      { id: 'yard', kind: 'things' },
    ],
    cues: [{ id: 'first' }, { id: 'second' }],
    patterns: [{ id: 'express' }],
    counts: [{ id: 'tea', name: 'Tea', goal: 9 }],
    jars: [
      { id: 'posters', kind: 'media' },
      { id: 'platform', kind: 'viewers' },
    ],
  } as never,
  cue: { id: 'first', beats: [] } as never,
  catalogue: {
    broadcaster: gear({ scenes: { Empty: [], Workbench: ['Mug'] }, filters: { 'Bench cam': { Fog: {} } } }),
    avatar: gear({ names: { outfit: ['Top hat'] } }),
    'things/yard': gear({
      things: {
        plate: { title: '', settings: {}, deeds: {} },
        vane: {
          title: 'Weathervane',
          settings: { angle: { type: 'number', max: 359 } },
          deeds: { spin: { title: '', values: { turns: { type: 'number', max: 9 } } } },
        },
      },
    }),
    voice: gear({ names: { preset: ['Tannoy'] } }),
  },
}

test('every kind of the core has its file', () => {
  expect(BEAT_NAMES.filter((kind) => !BEATS[kind])).toEqual([])
})

test.each(BEAT_NAMES)('%s is made with what is there', (kind) => {
  const fresh = BEATS[kind].fresh(halt)
  expect(fresh, 'it can be made').toBeTypeOf('object')
  const timed = BEAT_KINDS[kind].way !== 'strike'
  expect('length' in (fresh as object), 'only strikes have no length').toBe(timed)
})

it('takes the names that the gear has, and says what is missing', () => {
  const made = (kind: BeatKindName, around = halt): unknown => BEATS[kind].fresh(around)
  expect(made('source')).toMatchObject({ scene: 'Workbench', source: 'Mug' })
  expect(made('filter')).toMatchObject({ sources: ['Bench cam'], filter: 'Fog' })
  expect(made('avatar')).toMatchObject({ outfit: 'Top hat' })
  expect(made('fire')).toEqual({ cue: 'second' })
  expect([made('draw'), made('draw', nothing)]).toMatchObject([{ jar: 'platform' }, { jar: null }])
  const draws = { ...halt, cue: { id: 'first', beats: [{ kind: 'draw' }] } as never }
  expect([made('win', draws), made('points', draws), made('points')]).toMatchObject([
    { whose: 'drawn' },
    { whose: 'drawn' },
    { whose: 'caller' },
  ])
  expect(made('scene', nothing)).toMatchObject({ scene: 'Scene' })
  expect(made('scene', { ...halt, scene: 'Empty' })).toMatchObject({ scene: 'Workbench' })
  expect([made('hook', nothing), made('reward', nothing), made('fire', nothing)]).toEqual([
    'no hooks set up',
    'no rewards yet',
    'no other cues yet',
  ])
})

test.each([
  [{ kind: 'scene', scene: 'Yard cam' }, 'Yard cam'],
  [{ kind: 'source', scene: 'Night mail', any_source: true }, 'one of Night mail'],
  [{ kind: 'filter', filter: 'Fog', setting: 'amount', value: 0.4 }, 'Fog amount: 0.4'],
  [{ kind: 'filter', filter: 'Fog', setting: 'on', value: true }, 'Fog: on'],
  [{ kind: 'light', colour: { jar: 'paint' }, level: 0.5, look: 'steady' }, 'one of a jar, 50 %'],
  [{ kind: 'avatar', outfit: 'Top hat', expressions: ['Cheer'] }, 'Top hat, Cheer'],
  [{ kind: 'voice', preset: null, pitch: 3, mix: null }, 'pitch 3'],
  [{ kind: 'tap', combo: 'ControlLeft+KeyM' }, 'Control+M'],
  [{ kind: 'picture' }, 'words'],
  [{ kind: 'voice', preset: null }, 'words'],
])('a block on the score: %o', (fields, said) =>
  expect(sayBeat({ id: 'words', ...fields } as unknown as AnyBeat)).toBe(said),
)
