import { describe, expect, it } from 'vitest'
import type { Cue, Media, Schemas } from '@/api/client'
import { filesByTag, found, RECENT, usedNow } from './finding'

const media = ['Steam whistle', 'Poster at dusk', 'Poster of tea', 'Platform bell'].map(
  (name) => ({ id: name.toLowerCase().replace(/ /g, '-'), name }) as Media,
)
const cues = [
  { tags: ['yard'], beats: [{ kind: 'sound', media: { file: 'steam-whistle' } }, { kind: 'caption' }] },
  { tags: ['yard', 'stage'], beats: [{ kind: 'picture', media: { jar: 'posters', count: 1 } }] },
] as unknown as Cue[]
const jars = [
  { id: 'posters', entries: [{ value: 'poster-at-dusk' }, { value: 'poster-of-tea' }] },
] as unknown as Schemas['Jar'][]
const byTag = filesByTag(cues, jars)

describe('finding a file', () => {
  it.each<[string, string, string[]]>([
    ['', '', ['steam-whistle', 'poster-at-dusk', 'poster-of-tea', 'platform-bell']],
    ['POSTER', '', ['poster-at-dusk', 'poster-of-tea']],
    ['tea  poster', '', ['poster-of-tea']],
    ['', 'stage', ['poster-at-dusk', 'poster-of-tea']],
    ['whistle', 'stage', []],
    ['', 'yard', ['steam-whistle', 'poster-at-dusk', 'poster-of-tea']],
    ['', 'nothing', []],
    ['', RECENT, ['platform-bell', 'steam-whistle']],
    ['steam', RECENT, ['steam-whistle']],
  ])('“%s” under “%s”', (words, tag, ids) => {
    const recent = ['platform-bell', 'gone', 'steam-whistle']
    expect(found(media, words, tag, byTag, recent).map((entry) => entry.id)).toEqual(ids)
  })

  it('remembers what was used last, each once', () => {
    expect(usedNow(['a', 'b', 'c'], 'b')).toEqual(['b', 'a', 'c'])
    expect(
      usedNow(
        Array.from({ length: 30 }, (_, i) => `m${i}`),
        'x',
      ),
    ).toHaveLength(24)
  })
})
