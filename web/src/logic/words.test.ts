import { expect, it, test } from 'vitest'
import type { Held } from '@/composables/useLive'
import { sayKeys, sayPath, sayPaths, sayReturn, saySize, sayValue } from './words'

test.each([
  ['broadcast/scene', 'Scene'],
  ['broadcast/source/Workbench/Mug/visible', 'Mug in Workbench'],
  ['broadcast/filter/Bench cam/Fog/on', 'Bench cam, Fog'],
  ['broadcast/filter/Bench cam/Tint/colour', 'Bench cam, Tint colour'],
  ['light/signal/level', 'signal level'],
  ['avatar/expression/Cheer', 'Face Cheer'],
  ['avatar/outfit', 'Avatar’s outfit'],
  ['voice/pitch', 'Voice box pitch'],
  ['keys/ControlLeft+KeyM', 'Control+M'],
  ['reward/tea/on', 'tea available'],
  ['reward/tea/cost', 'tea cost'],
  ['sound/others', 'Other sounds'],
  ['things/yard/vane/angle', 'vane angle'],
  ['kettle/lid', 'kettle lid'],
])('%s is called %s', (path, said) => expect(sayPath(path)).toBe(said))

test.each([
  [null, 'unknown'],
  [true, 'on'],
  [false, 'off'],
  [0.12345, '0.123'],
  ['{{ colour }}', 'the viewer’s colour'],
  ['Yard cam', 'Yard cam'],
  [{ jar: 'paint' }, 'one of a jar'],
])('%o is said as %s', (value, said) => expect(sayValue(value)).toBe(said))

it('counts lamps, keys and bytes', () => {
  expect(sayPaths(['light/signal/colour', 'light/flood/colour'])).toBe('signal, flood colour')
  expect(sayPaths(['light/a/colour', 'light/b/colour', 'light/c/colour'])).toBe('3 lamps, colour')
  expect(sayKeys('ShiftLeft+Digit5+F8')).toBe('Shift+5+F8')
  expect([999, 1500, 2_345_678].map(saySize)).toEqual(['999 B', '2 kB', '2.3 MB'])
})

it('says what a hold goes back to', () => {
  expect(sayReturn({ layers: 1, returns_to: 'Workbench' } as Held)).toBe('returns to Workbench')
  expect(sayReturn({ layers: 2, returns_to: 'Night mail' } as Held)).toBe('under it: Night mail')
})
