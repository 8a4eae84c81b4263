import { expect, it } from 'vitest'
import { sayThroat, voiceChoices } from './voices'

const voice = (id: string, name: string): never => ({ id, name, language: id }) as never

it('voices stand by language, those of this computer first', () => {
  const voices = [
    voice('cy', 'Welsh'),
    voice('en-gb', 'English (Great Britain)'),
    voice('af', 'Afrikaans'),
    voice('en-us', 'English (America)'),
  ]
  expect(voiceChoices(voices, 'cy-GB').map((one) => `${one.group}: ${one.name}`)).toEqual([
    'Welsh: Welsh',
    'Afrikaans: Afrikaans',
    'English: English (America)',
    'English: English (Great Britain)',
  ])
})

it('throats have names', () => {
  expect(['m3', 'f1', 'whisper'].map(sayThroat)).toEqual(['man 3', 'woman 1', 'whisper'])
})
