import { expect, it, test } from 'vitest'
import type { Held } from '@/composables/useLive'
import { idOf } from './ids'
import said from './said.json'
import { sayKeys, sayReturn, saySize, sayValue } from './words'

/** What the server says the same way; its tests read the same file. */
test.each(said.value as [unknown, string][])('%o is said as %s', (value, words) =>
  expect(sayValue(value)).toBe(words),
)
test.each(said.id as [string, string[], string][])('the id of %s beside %o is %s', (name, taken, id) =>
  expect(idOf(name, taken)).toBe(id),
)
test.each(said.keys as [string, string][])('%s are said as %s', (combo, words) =>
  expect(sayKeys(combo)).toBe(words),
)

test.each([
  ['{{ colour }}', 'the viewer’s colour'],
  [{ jar: 'paint' }, 'one of a jar'],
])('%o is said as %s', (value, said) => expect(sayValue(value)).toBe(said))

it('counts bytes', () => {
  expect([999, 1500, 2_345_678].map(saySize)).toEqual(['999 B', '2 kB', '2.3 MB'])
})

it('says what a hold goes back to', () => {
  expect(sayReturn({ layers: 1, returns_to: 'Workbench' } as Held)).toBe('returns to Workbench')
  expect(sayReturn({ layers: 2, returns_to: 'Night mail' } as Held)).toBe('under it: Night mail')
})
