import { expect, it } from 'vitest'
import type { Cue, Media, Schemas } from '@/api/client'
import { cueChoices, fileChoices, jarChoices, posterOf, under } from './choices'

const file = (id: string, more: Partial<Media> = {}): Media =>
  ({ id, name: `The ${id}`, poster: `/media/${id}.jpg`, missing: false, ...more }) as Media
const cue = (...media: unknown[]): Cue =>
  ({ id: 'c', name: 'Steam whistle', beats: media.map((one) => ({ media: one })) }) as unknown as Cue
const jar = (id: string, ...values: string[]): Schemas['Jar'] =>
  ({
    id,
    name: '',
    entries: values.map((value, i) => ({ value, on: true, weight: i + 1 })),
  }) as unknown as Schemas['Jar']
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
  const bell = file('bell', { poster: null, wave: [0, 1], length_s: 3, trimmed_s: 2.5 })
  expect(fileChoices([file('owl', { missing: true }), bell])).toEqual([
    { value: 'owl', name: 'The owl (missing)', picture: '/media/owl.jpg' },
    { value: 'bell', name: 'The bell', picture: undefined, wave: [0, 1], detail: '2.5 s' },
  ])
  const folder = { ...jar('folder'), folder: '/home/me/posters' }
  expect(jarChoices([jar('posters', 'plume', 'owl', 'bell'), jar('empty'), folder], media)).toEqual([
    { value: 'posters', name: 'posters', picture: '/media/plume.jpg', detail: '3, 17 to 50 % each' },
    { value: 'empty', name: 'empty', picture: undefined, detail: 'empty' },
    { value: 'folder', name: 'folder', picture: undefined, detail: 'a folder' },
  ])
})

it('what stands under a heading is told apart', () => {
  const [one] = under('Files', 'file:', [{ value: 'owl', name: 'Owl' }])
  expect(one).toEqual({ value: 'file:owl', name: 'Owl', group: 'Files' })
})
