/** Finds a file among many: by its name, by the tags of the cues that use it, by its last use. */
import type { Cue, Media } from '@/api/client'
import { fileOf, jarIn } from './beats'
import type { AnyBeat, Schemas } from '@/api/client'

export const RECENT = 'recently used'
const MOST_RECENT = 24

/** The files that a cue shows or plays: its own, and those of its jars. */
function filesOf(cue: Cue, jars: ReadonlyMap<string, Schemas['Jar']>): string[] {
  return (cue.beats as AnyBeat[]).flatMap((beat) => {
    const jar = jars.get(jarIn(beat.media) ?? '')
    return jar ? jar.entries.map((entry) => entry.value) : [fileOf(beat) ?? '']
  })
}

/** The files under each tag of the cues that use them. */
export function filesByTag(cues: readonly Cue[], jars: readonly Schemas['Jar'][]): Map<string, Set<string>> {
  const byId = new Map(jars.map((jar) => [jar.id, jar]))
  const by = new Map<string, Set<string>>()
  for (const cue of cues)
    for (const tag of cue.tags) {
      const files = by.get(tag) ?? new Set()
      for (const file of filesOf(cue, byId)) if (file) files.add(file)
      by.set(tag, files)
    }
  return by
}

/** Files with all the words in their names, under a tag, optionally in order of use. */
export function found(
  media: readonly Media[],
  words: string,
  tag: string,
  byTag: ReadonlyMap<string, ReadonlySet<string>>,
  recent: readonly string[],
): Media[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean)
  const has = (entry: Media): boolean => wanted.every((word) => entry.name.toLowerCase().includes(word))
  if (tag === RECENT) {
    const byId = new Map(media.map((entry) => [entry.id, entry]))
    return recent.flatMap((id) => byId.get(id) ?? []).filter(has)
  }
  const under = tag ? byTag.get(tag) : undefined
  return media.filter((entry) => has(entry) && (!tag || (under?.has(entry.id) ?? false)))
}

/** The recently used files after another use. */
export function usedNow(recent: readonly string[], id: string): string[] {
  return [id, ...recent.filter((other) => other !== id)].slice(0, MOST_RECENT)
}
