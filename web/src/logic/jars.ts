/** Jars as they are made. */
import type { Book, Schemas } from '@/api/client'

type Jar = Book['jars'][number]

/** Whoever is there now, all alike, but not the caller. */
const ANYBODY: Schemas['Draws'] = {
  who: 'present',
  within_min: 10,
  roles: [],
  tier: 1,
  new_only: false,
  points_from: 0,
  caller: false,
  weights: {},
}

export function freshJar(id: string, name: string, kind: Jar['kind']): Jar {
  return { id, name, kind, rule: 'no_repeat', entries: [], folder: null, draws: ANYBODY }
}
