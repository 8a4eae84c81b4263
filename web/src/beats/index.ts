/** All kinds of beat as the editor knows them. The type checker refuses a kind of the core that is missing here. */
import { BEAT_KINDS, type BeatKindName } from '@/api/kinds'
import type { AnyBeat } from '@/api/client'
import type { BeatKind } from './kind'
import picture from './picture'
import clip from './clip'
import sound from './sound'
import speech from './speech'
import caption from './caption'
import bar from './bar'
import burst from './burst'
import throwing from './throw'
import haptics from './haptics'
import scene from './scene'
import source from './source'
import filter from './filter'
import light from './light'
import avatar from './avatar'
import voice from './voice'
import keys from './keys'
import setting from './set'
import reward from './reward'
import tap from './tap'
import deed from './do'
import hook from './hook'
import count from './count'
import reply from './reply'
import fire from './fire'
import chance from './chance'

export const BEATS: Record<BeatKindName, BeatKind> = {
  picture,
  clip,
  sound,
  speech,
  caption,
  bar,
  burst,
  throw: throwing,
  haptics,
  scene,
  source,
  filter,
  light,
  avatar,
  voice,
  keys,
  set: setting,
  reward,
  tap,
  do: deed,
  hook,
  count,
  reply,
  fire,
  chance,
}

export const BEAT_NAMES = Object.keys(BEAT_KINDS) as BeatKindName[]

/** The words in a beat's block on the score: for gear its value, otherwise the beat's name. */
export function sayBeat(beat: AnyBeat): string {
  const said = BEATS[beat.kind].say?.(beat) ?? []
  return said.filter((part) => typeof part === 'string' && part).join(', ') || beat.id
}
