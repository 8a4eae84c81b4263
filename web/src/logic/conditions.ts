/** The subjects of conditions, and their words. */
import type { Book, Schemas } from '@/api/client'

export type Condition = Schemas['Condition']
export type About =
  | 'role'
  | 'text_is'
  | 'text_contains'
  | 'text_has'
  | 'number'
  | 'count'
  | 'live'
  | 'category'
  | 'scene'
  | 'gear'
  | 'rolled'
  | 'drawn'

export const ABOUT: Record<About, string> = {
  role: 'the viewer is',
  text_is: 'the text is',
  text_contains: 'the text contains',
  text_has: 'the text has the word',
  number: 'the number in the text',
  count: 'a count',
  live: 'the stream is',
  category: 'the category is',
  scene: 'the scene is',
  gear: 'this gear is connected',
  rolled: 'the roll comes out as',
  drawn: 'the draw is',
}

const NOTHING: Condition = {
  not: false,
  role: null,
  text_is: null,
  text_has: null,
  text_contains: null,
  text_from: null,
  text_to: null,
  live: null,
  category: null,
  scene: null,
  gear: null,
  count: null,
  is: '>=',
  number: null,
  drawn: null,
  rolled: null,
  value: null,
}

/** A new condition; empty words are filled in by hand. */
const FRESH: Record<About, Partial<Condition>> = {
  role: { role: 'member' },
  text_is: { text_is: '' },
  text_contains: { text_contains: '' },
  text_has: { text_has: '' },
  number: { text_from: 1 },
  count: { count: 'viewer', number: 3 },
  live: { live: true },
  category: { category: ' ' },
  scene: { scene: ' ' },
  gear: { gear: '' },
  rolled: { rolled: '' },
  drawn: { drawn: '', value: '' },
}

export function fresh(about: About, fields: Partial<Condition> = {}): Condition {
  return { ...NOTHING, ...FRESH[about], ...fields }
}

export function aboutOf(condition: Condition): About {
  if (condition.text_from !== null || condition.text_to !== null) return 'number'
  const keys = Object.keys(ABOUT) as About[]
  return keys.find((key) => key !== 'number' && condition[key] !== null) ?? 'role'
}

const COUNTS: Record<string, string> = { viewer: 'calls by this viewer', all: 'calls by everyone' }

/** Every count that a condition can use, by its id. */
export function countsOf(book: Book | null): Record<string, string> {
  return { ...COUNTS, ...Object.fromEntries((book?.counts ?? []).map((one) => [one.id, one.name])) }
}
