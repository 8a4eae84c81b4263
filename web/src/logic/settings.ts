/** The possible values of gear settings. */
import type { Book, Schemas } from '@/api/client'
import { pathOf, readPath } from './paths'

type Kind = Schemas['SettingOut']

/** A first value. */
export function firstValue(kind?: Kind): boolean | number | string {
  if (!kind || kind.type === 'bool') return true
  if (kind.type === 'number') return kind.max ?? 1
  if (kind.type === 'colour') return '#f0a23c'
  return kind.choices[0] ?? 'Mind the gap'
}

/** The catalogue of a bridge's things, by the gear's id. */
export const knownAs = (gear: string): string => pathOf('things', gear)

/** The gear of a book that has things: bridges, and what plug-ins add. */
export function bridgesOf(
  book: Book | null | undefined,
  catalogue: Record<string, Schemas['CatalogueOut']>,
): Book['gear'] {
  return (book?.gear ?? []).filter((one) => one.kind === 'things' || knownAs(one.id) in catalogue)
}

/** The possible values of a filter's or a thing's setting, by its path. */
export function settingAt(
  catalogue: Record<string, Schemas['CatalogueOut']>,
  path: string,
): Kind | undefined {
  const { family, steps } = readPath(path)
  const [a = '', b = '', c = '', d = ''] = steps
  if (family === 'broadcast' && a === 'filter') return catalogue.broadcaster?.filters[b]?.[c]?.[d]
  return family === 'things' ? catalogue[knownAs(a)]?.things[b]?.settings[c] : undefined
}
