/** What the editor knows of a kind of beat. `api/kinds` has what the engine knows. */
import type { Component } from 'vue'
import type { Book, Cue, AnyBeat, Schemas, BeatFields } from '@/api/client'
import { bridgesOf, knownAs } from '@/logic/settings'

/** The surroundings in which a beat is made. */
export interface Around {
  book: Book | null
  cue: Cue | null
  catalogue: Record<string, Schemas['CatalogueOut']>
  /** The scene at rest, if known. */
  scene?: string
}

export interface BeatKind {
  name: string
  /** How it is offered: with its file, by a button of its own, or under More. */
  offered: 'with a file' | 'at once' | 'among more'
  /** The fields of a new one; or, in words, why there can be none. */
  fresh: (around: Around) => BeatFields | string
  /** The words in its block on the score; nothing keeps its name. */
  say?: (beat: AnyBeat) => unknown[]
  settings?: Component[]
  /** The kind of file it shows, and the words for showing none. */
  shows?: 'picture' | 'clip' | 'sound'
  without?: string
  /** Whether it can show a viewer's own picture. */
  faces?: boolean
  /** Whether it can be as long as what it shows, in whole loops. */
  natural?: boolean
  /** False for a hold that can't be kept permanently. */
  keeps?: false
  loops?: boolean
  /** Whether adding one asks viewers for a text. */
  asks?: boolean
}

export const FIVE = { length: { s: 5 } }
export const WHOLE = { place: { x: 0, y: 0, w: 1, h: 1 } }

/** The first name of something on gear of a kind. */
export function firstName(around: Around, gear: string, what: string, otherwise: string): string {
  return around.catalogue[gear]?.names[what]?.[0] || otherwise
}

/** The first thing of a bridge that has settings, or deeds; or, in words, why there is none. */
export function someThing(
  around: Around,
  what: 'settings' | 'deeds',
): { at: { gear: string; thing: string }; thing: Schemas['ThingOut']; part: string } | string {
  const bridges = bridgesOf(around.book, around.catalogue)
  for (const { id: gear } of bridges) {
    for (const [id, thing] of Object.entries(around.catalogue[knownAs(gear)]?.things ?? {})) {
      const part = Object.keys(thing[what])[0]
      if (part) return { at: { gear, thing: id }, thing, part }
    }
  }
  return bridges.length ? `no thing has told of ${what} yet` : 'no bridge set up'
}

export function scenesOf(around: Around): Record<string, string[]> {
  return around.catalogue.broadcaster?.scenes ?? {}
}
