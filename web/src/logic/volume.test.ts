import { expect, it } from 'vitest'
import { sayDb } from './volume'

it('says percent in decibels', () => {
  expect([100, 50, 10, 79.43, 0].map(sayDb)).toEqual(['0 dB', '−6 dB', '−20 dB', '−2 dB', 'silent'])
})
