import { expect, it } from 'vitest'
import type { AnyBeat } from '@/api/client'
import type { Span } from '@/composables/useCueDraft'
import { pictureToSound, soundToPicture } from './fit'

const make = (id: string, kind: string, more = {}): AnyBeat => ({ id, kind, ...more }) as unknown as AnyBeat
const lies = (start: number, end: number | null): Span => ({ start, end, end_latest: end }) as unknown as Span
const bell = make('bell', 'sound')
const beats = [bell, make('poster', 'picture'), make('words', 'caption'), make('cam', 'scene')]

it('ends a sound with the last that is seen, however long the gear is held', () => {
  const spans = new Map([
    ['bell', lies(500, 9000)],
    ['poster', lies(0, 3000)],
    ['words', lies(0, 4500)],
    ['cam', lies(0, 60000)],
  ])
  expect(soundToPicture(bell, beats, spans)).toEqual({ length: { s: 4 }, fade_out_s: 0.3 })
  expect(soundToPicture({ ...bell, fade_out_s: 1 } as AnyBeat, beats, spans)).toMatchObject({
    fade_out_s: 1,
  })
  expect(pictureToSound(bell, beats, spans)).toEqual({ id: 'words', length: { s: 9 } })
})

it('does nothing where nothing is seen, it stays open, or no time is left', () => {
  expect(soundToPicture(bell, [bell], new Map([['bell', lies(0, 1)]]))).toBeNull()
  expect(
    soundToPicture(
      bell,
      beats,
      new Map([
        ['bell', lies(0, 1)],
        ['poster', lies(0, null)],
      ]),
    ),
  ).toBeNull()
  expect(
    soundToPicture(
      bell,
      beats,
      new Map([
        ['bell', lies(3000, 9000)],
        ['poster', lies(0, 3000)],
      ]),
    ),
  ).toBeNull()
  expect(
    pictureToSound(
      bell,
      beats,
      new Map([
        ['bell', lies(0, null)],
        ['poster', lies(0, 3000)],
      ]),
    ),
  ).toBeNull()
})
