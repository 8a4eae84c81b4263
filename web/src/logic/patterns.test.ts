import { describe, expect, it } from 'vitest'
import { levelsOf, ownPads, painted, type Fit, type Pattern, type Touch } from './patterns'

const pad = (id: string, x: number): Touch => ({ id, title: id, side: 'front', x, y: 0.5, size: 0.1 })
const PADS = [pad('a', 0.2), pad('b', 0.5), pad('c', 0.8)]
const place = (x: number) => ({ side: 'front' as const, x, y: 0.5, size: 0.1 })

function pattern(levels: Record<string, number>[], places: Record<string, number>): Pattern {
  return {
    id: 'p',
    name: 'P',
    length_s: 1,
    places: Object.fromEntries(Object.entries(places).map(([id, x]) => [id, place(x)])),
    frames: levels.map((one, i) => ({ at_s: i / 2, levels: one, curve: 'line' })),
  }
}

describe('what pads feel', () => {
  it.each<[string, Record<string, number>, Fit, number[]]>([
    ['nothing', {}, {}, [0, 0, 0]],
    ['one place', { p1: 0.5 }, { p1: ['b'] }, [0, 0.5, 0]],
    ['the highest of two', { p1: 0.5, p2: 0.7 }, { p1: ['b'], p2: ['b'] }, [0, 0.7, 0]],
    ['a place that two feel', { p1: 0.5 }, { p1: ['a', 'c'] }, [0.5, 0, 0.5]],
  ])('%s', (_, levels, fit, wanted) => {
    expect(levelsOf({ at_s: 0, levels, curve: 'line' }, PADS, fit)).toEqual(wanted)
  })

  it('of a pattern alone are its own places', () => {
    expect(ownPads(pattern([{}], { p1: 0.2 }))).toEqual([{ ...place(0.2), id: 'p1', title: '' }])
  })
})

describe('painting', () => {
  it('makes a place where the pad lies, and takes it away with its last level', () => {
    const made = painted(pattern([{}, {}], {}), 1, PADS[1]!, 0.8, PADS, {})
    expect(made.pattern.places).toEqual({ p1: place(0.5) })
    expect(made.pattern.frames.map((one) => one.levels)).toEqual([{}, { p1: 0.8 }])
    expect(made.fit).toEqual({ p1: ['b'] })
    const gone = painted(made.pattern, 1, PADS[1]!, 0, PADS, made.fit)
    expect([gone.pattern.places, gone.pattern.frames[1]!.levels, gone.fit]).toEqual([{}, {}, {}])
  })

  it('uses the places that the pad feels already, wherever they lie', () => {
    const made = painted(pattern([{ p1: 0.5 }], { p1: 0.45, p2: 0.55 }), 0, PADS[1]!, 0.9, PADS, {
      p1: ['b'],
      p2: ['b'],
    })
    expect(made.pattern.frames[0]!.levels).toEqual({ p1: 0.9, p2: 0.9 })
    expect(Object.keys(made.pattern.places)).toEqual(['p1', 'p2'])
  })

  it('parts a place that other pads feel too, and leaves those as they were', () => {
    const before = pattern([{ p1: 0.5 }, { p1: 0.3 }], { p1: 0.35 })
    const fit = { p1: ['a', 'b'] }
    const made = painted(before, 0, PADS[0]!, 1, PADS, fit)
    const levels = made.pattern.frames.map((one) => levelsOf(one, PADS, made.fit))
    expect(levels).toEqual([
      [1, 0.5, 0],
      [0.3, 0.3, 0],
    ])
    expect(made.pattern.places).not.toHaveProperty('p1')
    expect(before.frames[0]!.levels).toEqual({ p1: 0.5 })
  })

  it('takes no id that is there', () => {
    const made = painted(pattern([{ p2: 1 }], { p2: 0.2 }), 0, PADS[2]!, 0.4, PADS, { p2: ['a'] })
    expect(made.pattern.frames[0]!.levels).toEqual({ p2: 1, p3: 0.4 })
  })
})
