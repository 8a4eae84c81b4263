/** Entries of the book as choices of a `PickField`: by name, with their picture. */
import type { AnyBeat, Cue, Media, Schemas } from '@/api/client'
import type { Choice } from '@/parts/choice'
import { fileOf, jarIn } from './beats'
import { sayDuration } from './duration'

type Jar = Schemas['Jar']
type MediaById = ReadonlyMap<string, Media>

/** The picture of a cue: that of the first file it shows, its own or a jar's first. */
export function posterOf(cue: Cue, media: MediaById, jars: readonly Jar[] = []): string | undefined {
  for (const beat of cue.beats as AnyBeat[]) {
    const jar = jars.find((j) => j.id === jarIn(beat.media))
    const poster = media.get(fileOf(beat) || (jar?.entries[0]?.value ?? ''))?.poster
    if (poster) return poster
  }
  return undefined
}

export function fileChoices(media: readonly Media[]): Choice[] {
  return media.map((m) => ({
    value: m.id,
    name: `${m.name}${m.missing ? ' (missing)' : ''}`,
    picture: m.poster ?? undefined,
    wave: m.poster ? undefined : m.wave,
    detail: m.length_s ? sayDuration(m.trimmed_s) : undefined,
  }))
}

export function jarChoices(jars: readonly Jar[], media: MediaById): Choice[] {
  return jars.map((jar) => ({
    value: jar.id,
    name: jar.name || jar.id,
    picture: media.get(jar.entries[0]?.value ?? '')?.poster ?? undefined,
    detail: sayShares(jar),
  }))
}

export function cueChoices(cues: readonly Cue[], media: MediaById, jars: readonly Jar[]): Choice[] {
  return cues.map((cue) => ({ value: cue.id, name: cue.name, picture: posterOf(cue, media, jars) }))
}

/** How many entries of a jar can be drawn, and the largest share. */
function sayShares(jar: Jar): string {
  if (jar.folder) return 'a folder'
  const weights = jar.entries.filter((entry) => entry.on && entry.weight > 0).map((entry) => entry.weight)
  const sum = weights.reduce((all, weight) => all + weight, 0)
  if (!sum) return 'empty'
  const [least, most] = [Math.min(...weights), Math.max(...weights)].map((w) => Math.round((100 * w) / sum))
  return `${weights.length}, ${least === most ? `${most} %` : `${least} to ${most} %`} each`
}

/** The same choices, each under a heading and made unique by a prefix of its value. */
export function under(group: string, before: string, choices: readonly Choice[]): Choice[] {
  return choices.map((choice) => ({ ...choice, group, value: `${before}${choice.value}` }))
}

/** Where others may connect: nowhere, or on one of this computer's addresses. `now`: the present one, even if it is gone. */
export function addressChoices(addresses: string[], now: string): { value: string; name: string }[] {
  const there = [...new Set([...addresses, now])].filter(Boolean)
  const net = there.map((address) => ({ value: address, name: `the network, at ${address}` }))
  return [{ value: '', name: 'this computer only' }, ...net]
}
