/** Merges two changes of the same thing, keeping both. */

type Json = unknown
type Row = { id: string }

const same = (one: Json, other: Json): boolean => JSON.stringify(one) === JSON.stringify(other)
const isObject = (value: Json): value is Record<string, Json> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
const areRows = (value: Json): value is Row[] =>
  Array.isArray(value) && value.every((row) => isObject(row) && typeof row.id === 'string')

const areNames = (value: Json): value is string[] =>
  Array.isArray(value) &&
  value.every((name) => typeof name === 'string') &&
  new Set(value).size === value.length

/**
 * `mine` and `theirs`, both based on `base`: fields by name, lists of entries by id, lists of
 * names by the name. If both changed the same, mine counts;
 * what they removed is gone, unless I changed it.
 */
export function merged<T>(base: T, mine: T, theirs: T): T {
  if (same(mine, theirs) || same(base, mine)) return theirs
  if (same(base, theirs)) return mine
  if (isObject(base) && isObject(mine) && isObject(theirs)) return fields(base, mine, theirs) as T
  if (areRows(base) && areRows(mine) && areRows(theirs)) return rows(base, mine, theirs) as T
  if (areNames(base) && areNames(mine) && areNames(theirs)) return names(base, mine, theirs) as T
  return mine
}

function fields(
  base: Record<string, Json>,
  mine: Record<string, Json>,
  theirs: Record<string, Json>,
): Record<string, Json> {
  const out: Record<string, Json> = {}
  for (const name of new Set([...Object.keys(mine), ...Object.keys(theirs)])) {
    const value = merged(base[name], mine[name], theirs[name])
    if (value !== undefined) out[name] = value
  }
  return out
}

/** In my order; their additions come last. */
function rows(base: Row[], mine: Row[], theirs: Row[]): Row[] {
  const by = (list: Row[]): Map<string, Row> => new Map(list.map((row) => [row.id, row]))
  const [bases, minds, others] = [by(base), by(mine), by(theirs)]
  return [...new Map([...minds, ...others]).keys()].flatMap((id) => {
    const row = merged(bases.get(id), minds.get(id), others.get(id))
    return row ? [row] : []
  })
}

/** In my order, without what they removed; their additions come last. */
function names(base: string[], mine: string[], theirs: string[]): string[] {
  const kept = mine.filter((name) => theirs.includes(name) || !base.includes(name))
  return [...kept, ...theirs.filter((name) => !mine.includes(name) && !base.includes(name))]
}
