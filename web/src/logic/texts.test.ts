import { expect, it } from 'vitest'
import type { AnyBeat } from '@/api/client'
import { ANY_TEXT, followed, usesText } from './texts'

const beat = (text: unknown): AnyBeat => ({ kind: 'speech', text }) as never

it('knows a text that is used from one that is written by hand', () => {
  expect(usesText([beat('Mind the gap, {{viewer}}')])).toBe(false)
  expect(usesText([beat('{{viewer}} says {{ text }}')])).toBe(true)
  expect(usesText([beat({ jar: 'lines', count: 1 })])).toBe(false)
})

it('the door follows both ways until the streamer sets it', () => {
  const own = { ...ANY_TEXT, max: 40 }
  expect(followed(null, false, true)).toEqual(ANY_TEXT)
  expect(followed({ ...ANY_TEXT }, true, false)).toBeNull()
  expect(followed(own, true, false)).toEqual(own)
  expect(followed(null, true, true)).toBeNull()
  expect(followed({ ...ANY_TEXT }, false, false)).toEqual(ANY_TEXT)
})
