import { expect, test } from 'vitest'
import { aligned, ALIGNS, relayered } from './arrange'

const one = { x: 0.1, y: 0.2, w: 0.3, h: 0.1 }
const to = { x: 0.5, y: 0.4, w: 0.2, h: 0.4 }

test.each([
  ['left', { x: 0.5, y: 0.2 }],
  ['centre', { x: 0.45, y: 0.2 }],
  ['right', { x: 0.4, y: 0.2 }],
  ['top', { x: 0.1, y: 0.4 }],
  ['middle', { x: 0.1, y: 0.55 }],
  ['bottom', { x: 0.1, y: 0.7 }],
] as const)('aligned by %s only moves', (how, where) =>
  expect(aligned(one, to, how)).toEqual({ ...one, ...where }),
)

test('the same place is the same size too, and every way is offered', () => {
  expect(aligned(one, to, 'same')).toEqual(to)
  expect(ALIGNS.map((way) => aligned(to, to, way.id))).toEqual(ALIGNS.map(() => to))
})

test('what goes to the front or back keeps its order', () => {
  const layers = (way: 'front' | 'back'): string[] =>
    [...relayered(['a', 'b', 'c', 'd'], ['c', 'a'], way)].sort((x, y) => x[1] - y[1]).map(([id]) => id)
  expect(layers('front')).toEqual(['b', 'd', 'a', 'c'])
  expect(layers('back')).toEqual(['a', 'c', 'b', 'd'])
})
