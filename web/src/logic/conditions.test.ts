import { expect, it } from 'vitest'
import { ABOUT, aboutOf, fresh, sayCondition, type About, type Condition } from './conditions'

it('a fresh condition is about what it was made for, and reads without a gap', () => {
  for (const about of Object.keys(ABOUT) as About[]) {
    const filled = Object.fromEntries(
      Object.entries(fresh(about)).map(([key, value]) => [
        key,
        value === '' || value === ' ' ? 'tea' : value,
      ]),
    ) as unknown as Condition
    expect(aboutOf(filled)).toBe(about)
    const said = sayCondition(filled, null)
    expect(said).not.toMatch(/undefined|null| {2}|^\s|\s$/)
    expect(sayCondition({ ...filled, not: true }, null)).toBe(`not: ${said}`)
  }
})

it('numbers read as a range, an edge or one value', () => {
  const say = (from: number | null, to: number | null): string =>
    sayCondition(fresh('number', { text_from: from, text_to: to }), null)
  expect([say(3, 7), say(7, 7), say(3, null), say(null, 7)]).toEqual([
    'the number in the text is 3 to 7',
    'the number in the text is 7',
    'the number in the text is 3 or more',
    'the number in the text is 7 or less',
  ])
})
