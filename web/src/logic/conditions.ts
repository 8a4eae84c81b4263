/** What a condition can be about, and how it reads. */
import type { Book, Schemas } from '@/api/client'
import { ROLE_NAMES } from '@/api/kinds'

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

/** What stands in a condition when it is added; empty words are filled in by hand. */
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

/** Every count that a condition can ask for, by its id. */
export function countsOf(book: Book | null): Record<string, string> {
  return { ...COUNTS, ...Object.fromEntries((book?.counts ?? []).map((one) => [one.id, one.name])) }
}

function number({ text_from: from, text_to: to }: Condition): string {
  if (from !== null && to !== null) return from === to ? `is ${from}` : `is ${from} to ${to}`
  return from !== null ? `is ${from} or more` : `is ${to} or less`
}

const SIGNS: Record<Condition['is'], string> = { '=': 'is', '>=': 'is at least', '<=': 'is at most' }

function plainly(condition: Condition, book: Book | null): string {
  const about = aboutOf(condition)
  switch (about) {
    case 'role':
      return `the viewer is one of the ${ROLE_NAMES[condition.role ?? '']}`
    case 'number':
      return `the number in the text ${number(condition)}`
    case 'count':
      return `${countsOf(book)[condition.count ?? ''] ?? condition.count} ${SIGNS[condition.is]} ${condition.number}`
    case 'live':
      return condition.live ? 'you are live' : 'you are off air'
    case 'gear':
      return `${book?.gear.find((one) => one.id === condition.gear)?.name || condition.gear} is connected`
    case 'drawn':
      return `“${condition.drawn}” draws ${condition.value}`
    default:
      return `${ABOUT[about]} ${String(condition[about])}`
  }
}

/** A condition in words. */
export function sayCondition(condition: Condition, book: Book | null): string {
  const said = plainly(condition, book)
  return condition.not ? `not: ${said}` : said
}
