import { expect, it } from 'vitest'
import { ABOUT, aboutOf, fresh, type About } from './conditions'

it('a fresh condition is about what it was made for', () => {
  for (const about of Object.keys(ABOUT) as About[]) expect(aboutOf(fresh(about))).toBe(about)
})
