import { expect, it, test } from 'vitest'
import type { Held } from '@/composables/useLive'
import { sayKeys, sayReturn, saySize, sayValue } from './words'

test.each([
  [null, 'unknown'],
  [true, 'on'],
  [false, 'off'],
  [0.12345, '0.123'],
  ['{{ colour }}', 'the viewer’s colour'],
  ['Yard cam', 'Yard cam'],
  [{ jar: 'paint' }, 'one of a jar'],
])('%o is said as %s', (value, said) => expect(sayValue(value)).toBe(said))

it('counts keys and bytes', () => {
  expect(sayKeys('ShiftLeft+Digit5+F8')).toBe('Shift+5+F8')
  expect([999, 1500, 2_345_678].map(saySize)).toEqual(['999 B', '2 kB', '2.3 MB'])
})

it('says what a hold goes back to', () => {
  expect(sayReturn({ layers: 1, returns_to: 'Workbench' } as Held)).toBe('returns to Workbench')
  expect(sayReturn({ layers: 2, returns_to: 'Night mail' } as Held)).toBe('under it: Night mail')
})
