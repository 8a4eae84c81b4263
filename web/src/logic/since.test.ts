import { expect, it } from 'vitest'
import type { Book, Media } from '@/api/client'
import { bookSince, mediaSince, type Since } from './since'

const cue = (id: string, name = id) => ({ id, name })
const before = {
  house: { volume: 100 },
  points: { on: false },
  cues: [cue('a'), cue('b'), cue('c')],
  lanes: [{ id: 'yard' }],
} as unknown as Book
const news = (more: object): Since =>
  ({ version: 2, parts: {}, entries: {}, order: {}, ...more }) as unknown as Since

it('takes parts, entries and their order, and leaves the rest as it is', () => {
  const next = bookSince(
    before,
    news({
      parts: { house: { volume: 40 } },
      entries: { cues: [cue('b', 'Bell'), cue('d')], jars: [{ id: 'j' }] },
      order: { cues: ['d', 'b', 'a'], jars: ['j'] },
    }),
  )
  expect(next).toMatchObject({ house: { volume: 40 }, points: { on: false }, jars: [{ id: 'j' }] })
  expect(next.cues).toEqual([cue('d'), cue('b', 'Bell'), cue('a')])
  expect([next.lanes === before.lanes, next.cues[2] === before.cues[0]]).toEqual([true, true])
  expect(bookSince(before, news({ entries: { cues: [cue('c', 'Crossing')] } })).cues).toEqual([
    cue('a'),
    cue('b'),
    cue('c', 'Crossing'),
  ])
})

it('takes media that are new, changed or gone', () => {
  const there = [{ id: 'x' }, { id: 'y' }] as Media[]
  const media = (rows: object[], order: string[]) => news({ media: { mark: 'm', rows, order } })
  expect(mediaSince(there, media([], ['x', 'y']))).toBe(there)
  expect(mediaSince(there, media([], ['y']))).toEqual([{ id: 'y' }])
  expect(mediaSince(there, media([{ id: 'x', used_by: ['Bell'] }, { id: 'z' }], ['x', 'y', 'z']))).toEqual([
    { id: 'x', used_by: ['Bell'] },
    { id: 'y' },
    { id: 'z' },
  ])
})
