/** Copies beats between cues, with what they need elsewhere. */
import { useLocalStorage } from '@vueuse/core'
import type { AnyBeat, BeatFields, Schemas } from '@/api/client'
import { freeId } from './ids'

/** Kept in this browser, so that another window can paste them. */
const shelf = useLocalStorage<AnyBeat[]>('cue-jar-beats', [], { onError: () => {} })

export function shelve(beats: AnyBeat[]): void {
  shelf.value = beats
}

export function shelved(): AnyBeat[] {
  return Array.isArray(shelf.value) ? shelf.value : []
}

/**
 * Returns copies of beats with unused ids. Anchors among them are kept; an anchor or a condition on something that isn't
 * there is dropped.
 */
export function planted(beats: AnyBeat[], there: AnyBeat[]): AnyBeat[] {
  const taken = new Set(there.map((beat) => beat.id))
  const names = new Map<string, string>()
  for (const beat of beats) {
    const name = freeId(beat.id.replace(/-\d+$/, ''), taken)
    taken.add(name)
    names.set(beat.id, name)
  }
  const known = new Set(there.map((beat) => beat.id))
  const outcomes = new Set([...there, ...beats].flatMap((b) => (b.outcomes ?? []).map((o) => o.id)))
  return beats.map((beat) => {
    const copy = JSON.parse(JSON.stringify(beat)) as AnyBeat
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

export type Outcome = Schemas['Outcome']

/** A new outcome of a chance. */
export function freshOutcome(id: string, name: string, when: Outcome['when'] = 'any'): Outcome {
  return { id, name, when, is: '=', number: null, numbers: [], weight: 1 }
}

/** The file that a beat shows or plays; '' for none, or one from a jar. */
export function fileOf(beat: AnyBeat | null | undefined): string {
  return beat?.media && 'file' in beat.media ? beat.media.file : ''
}

/** Whether it shows the picture of its viewer. */
export function showsFace(beat: AnyBeat | null | undefined): boolean {
  return Boolean(beat?.media && 'face' in beat.media)
}

/** The start of a beat that depends on another: after it, unless the beat was moved already or the other waits for it. */
export function startAfter(beat: AnyBeat, other: AnyBeat | undefined): Partial<Pick<AnyBeat, 'start'>> {
  const moved = beat.start.after || beat.start.at_s !== 0
  if (!other || moved || other.start.after === beat.id) return {}
  return { start: { at_s: 0, after: other.id, edge: 'end', hit: 1 } }
}

/** The jar that it draws from; '' for none. */
export function jarIn(from: unknown): string {
  return from && typeof from === 'object' && 'jar' in from ? String(from.jar) : ''
}

/** A length in seconds; null if it is of another kind. */
export function secondsOf(length: BeatFields['length']): number | null {
  return length && typeof length === 'object' && 's' in length ? length.s : null
}

/** A length in whole loops; null if it is of another kind. */
export function loopsOf(length: BeatFields['length']): number | null {
  return length && typeof length === 'object' && 'loops' in length ? length.loops : null
}
