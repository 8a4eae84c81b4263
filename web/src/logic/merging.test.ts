import { describe, expect, it } from 'vitest'
import { merged } from './merging'

const base = {
  name: 'Tea',
  door: { cooldown_s: 10, who: 'all' },
  beats: [
    { id: 'a', s: 1 },
    { id: 'b', s: 2 },
  ],
}

describe('two who changed the same', () => {
  it('count both, field by field and row by row', () => {
    const mine = {
      ...base,
      name: 'Tea time',
      beats: [
        { id: 'a', s: 5 },
        { id: 'b', s: 2 },
        { id: 'c', s: 3 },
      ],
    }
    const theirs = {
      ...base,
      door: { cooldown_s: 60, who: 'all' },
      beats: [
        { id: 'a', s: 1 },
        { id: 'd', s: 4 },
      ],
    }
    expect(merged(base, mine, theirs)).toEqual({
      name: 'Tea time',
      door: { cooldown_s: 60, who: 'all' },
      beats: [
        { id: 'a', s: 5 },
        { id: 'c', s: 3 },
        { id: 'd', s: 4 },
      ],
    })
  })
  it('mine counts where both changed the same field, also against a removal', () => {
    expect(merged(base, { ...base, name: 'Mine' }, { ...base, name: 'Theirs' }).name).toBe('Mine')
    const mine = {
      ...base,
      beats: [
        { id: 'a', s: 1 },
        { id: 'b', s: 9 },
      ],
    }
    expect(merged(base, mine, { ...base, beats: [{ id: 'a', s: 1 }] }).beats).toEqual(mine.beats)
    const changed = { ...base, beats: [{ id: 'a', s: 7 }, ...base.beats.slice(1)] }
    expect(merged(base, { ...base, beats: [] }, changed).beats).toEqual([])
  })
  it('is theirs where I changed nothing, and mine where they did not', () => {
    const other = { ...base, name: 'Other' }
    expect(merged(base, base, other)).toBe(other)
    expect(merged(base, other, base)).toBe(other)
    const less: Partial<typeof base> = { name: 'Tea', beats: base.beats }
    expect(merged<Partial<typeof base>>(base, less, { ...base, name: 'Other' })).toEqual({
      ...less,
      name: 'Other',
    })
  })
  it('lists of names: what each added is in, what each took out is gone', () => {
    expect(merged(['a', 'b', 'c'], ['b', 'c', 'mine'], ['a', 'b', 'theirs'])).toEqual(['b', 'mine', 'theirs'])
    expect(merged([], ['a'], ['a', 'b'])).toEqual(['a', 'b'])
  })
})
