/** All kinds of beat as the editor knows them: one file each, by its name. A test names one of the core's that is missing. */
import { BEAT_KINDS, type BeatKindName } from '@/api/kinds'
import type { AnyBeat } from '@/api/client'
import type { BeatKind } from './kind'

export const BEAT_NAMES = Object.keys(BEAT_KINDS) as BeatKindName[]

const FILES = import.meta.glob<BeatKind>(['./*.ts', '!./index.ts', '!./kind.ts', '!./*.test.ts'], {
  eager: true,
  import: 'default',
})

export const BEATS = Object.fromEntries(BEAT_NAMES.map((name) => [name, FILES[`./${name}.ts`]])) as Record<
  BeatKindName,
  BeatKind
>

/** The words in a beat's block on the score: for gear its value, otherwise the beat's name. */
export function sayBeat(beat: AnyBeat): string {
  const said = BEATS[beat.kind].say?.(beat) ?? []
  return said.filter((part) => typeof part === 'string' && part).join(', ') || beat.id
}
