/** Ids that aren't taken yet. */

/** Returns this id, or with the first free number. */
export function freeId(base: string, taken: Iterable<string>): string {
  const known = new Set(taken)
  let id = base
  for (let n = 2; known.has(id); n += 1) id = `${base}-${n}`
  return id
}

/** Returns a short id made from a name, as `core/parts/slugs.py` makes it. */
export function idOf(name: string, taken: Iterable<string>): string {
  const plain = name
    .toLowerCase()
    .replaceAll('ß', 'ss')
    .normalize('NFKD')
    .replace(/[^\p{ASCII}]/gu, '')
  const base = plain
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 48)
  return freeId(base || 'thing', taken)
}
