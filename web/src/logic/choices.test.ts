import { expect, it } from 'vitest'
import type { Cue, Media, Schemas } from '@/api/client'
import { cueChoices, fileChoices, jarChoices, posterOf, under } from './choices'

const file = (id: string, more: Partial<Media> = {}): Media =>
  ({ id, name: `The ${id}`, poster: `/media/${id}.jpg`, missing: false, ...more }) as Media
const cue = (...media: unknown[]): Cue =>
  ({ id: 'c', name: 'Steam whistle', beats: media.map((one) => ({ media: one })) }) as unknown as Cue
const jar = (id: string, ...values: string[]): Schemas['Jar'] =>
  ({ id, name: '', entries: values.map((value) => ({ value })) }) as unknown as Schemas['Jar']
const media = new Map(
  [file('plume'), file('owl'), file('bell', { poster: null })].map((one) => [one.id, one]),
)

it('a cue is known by the first picture it shows, its own or a jar’s', () => {
  expect(posterOf(cue(undefined, { file: 'bell' }, { file: 'owl' }), media)).toBe('/media/owl.jpg')
  expect(posterOf(cue({ jar: 'posters' }), media, [jar('posters', 'plume', 'owl')])).toBe('/media/plume.jpg')
  expect(posterOf(cue({ jar: 'gone' }, { file: 'lost' }), media)).toBeUndefined()
  expect(cueChoices([cue({ file: 'owl' })], media, [])).toEqual([
    { value: 'c', name: 'Steam whistle', picture: '/media/owl.jpg' },
  ])
})

it('files and jars have their pictures, and say what is missing', () => {
  expect(fileChoices([file('owl', { missing: true }), file('bell', { poster: null })])).toEqual([
    { value: 'owl', name: 'The owl (missing)', picture: '/media/owl.jpg' },
    { value: 'bell', name: 'The bell', picture: undefined },
  ])
  expect(jarChoices([jar('posters', 'plume'), jar('empty')], media)).toEqual([
    { value: 'posters', name: 'posters', picture: '/media/plume.jpg' },
    { value: 'empty', name: 'empty', picture: undefined },
  ])
})

it('what stands under a heading is told apart', () => {
  const [one] = under('Files', 'file:', [{ value: 'owl', name: 'Owl' }])
  expect(one).toEqual({ value: 'file:owl', name: 'Owl', group: 'Files' })
})
