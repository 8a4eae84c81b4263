/** Whether a cue uses a viewer's text, and the default rule that asks for it. */
import type { AnyBeat, Cue } from '@/api/client'

type TextRule = NonNullable<Cue['door']['text']>

/** The door's default rule once a beat uses the text. */
export const ANY_TEXT: TextRule = {
  need: true,
  kind: 'any',
  min: null,
  max: 200,
  too_long: 'refuse',
  choices: [],
  range: null,
}
const USES = /\{\{\s*text\s*\}\}/

export function usesText(beats: readonly AnyBeat[]): boolean {
  return beats.some((beat) =>
    [beat.text, beat.value, beat.payload].some((one) => USES.test(String(one ?? ''))),
  )
}

const isOurs = (rule: TextRule): boolean =>
  (Object.keys(ANY_TEXT) as (keyof TextRule)[]).every(
    (key) => JSON.stringify(rule[key]) === JSON.stringify(ANY_TEXT[key]),
  )

/** The door's rule after beats started or stopped using the text; the streamer's own rule stays. */
export function followed(rule: Cue['door']['text'], did: boolean, does: boolean): Cue['door']['text'] {
  if (does && !did && !rule) return { ...ANY_TEXT }
  if (did && !does && rule && isOurs(rule)) return null
  return rule
}
