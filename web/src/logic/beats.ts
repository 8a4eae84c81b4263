/** Beats on their way between cues, and what is needed to put them down elsewhere. */
import type { LooseBeat } from '@/api/client'

const SHELF = 'cue-jar-beats'

export function shelve(beats: LooseBeat[]): void {
  localStorage.setItem(SHELF, JSON.stringify(beats))
}

export function shelved(): LooseBeat[] {
  try {
    const beats = JSON.parse(localStorage.getItem(SHELF) ?? '[]') as LooseBeat[]
    return Array.isArray(beats) ? beats : []
  } catch {
    return []
  }
}

export function freeId(base: string, taken: Set<string>): string {
  let name = base
  for (let n = 2; taken.has(name); n += 1) name = `${base}-${n}`
  return name
}

/**
 * Copies of beats under ids that are free. Anchors among them are kept; an anchor or a condition on something that is
 * not there is let go.
 */
export function planted(beats: LooseBeat[], there: LooseBeat[]): LooseBeat[] {
  const taken = new Set(there.map((beat) => beat.id))
  const names = new Map<string, string>()
  for (const beat of beats) {
    const name = freeId(beat.id.replace(/-\d+$/, ''), taken)
    taken.add(name)
    names.set(beat.id, name)
  }
  const known = new Set(there.map((beat) => beat.id))
  const outcomes = new Set(
    [...there, ...beats].flatMap((b) => ((b.outcomes ?? []) as { id: string }[]).map((o) => o.id)),
  )
  return beats.map((beat) => {
    const copy = JSON.parse(JSON.stringify(beat)) as LooseBeat
    copy.id = names.get(beat.id) ?? beat.id
    const after = beat.start.after
    if (after) {
      const now = names.get(after) ?? (known.has(after) ? after : null)
      copy.start = now
        ? { ...beat.start, after: now }
        : { at_s: Math.max(0, beat.start.at_s), after: null, edge: 'end', hit: 1 }
    }
    copy.only_if = beat.only_if
      .filter((c) => !c.rolled || outcomes.has(c.rolled))
      .filter((c) => !c.drawn || names.has(c.drawn) || known.has(c.drawn))
      .map((c) => (c.drawn ? { ...c, drawn: names.get(c.drawn) ?? c.drawn } : c))
    return copy
  })
}
