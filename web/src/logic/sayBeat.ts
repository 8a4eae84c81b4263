/** What stands in a beat's block on the score: for gear what it is set to, else the beat's name. */
import type { LooseBeat } from '@/api/client'
import { sayKeys, sayValue } from './words'

/** How each kind of gear's beat is said; an empty answer leaves the beat its name. */
const SAID: Record<string, (beat: LooseBeat) => unknown[]> = {
  scene: (b) => [b.scene],
  source: (b) => [b.any_source ? `one of ${b.scene}` : b.source],
  filter: (b) => [`${b.filter}${b.setting === 'on' ? '' : ` ${b.setting}`}: ${sayValue(b.value)}`],
  light: (b) => [
    b.colour != null && sayValue(b.colour),
    b.level != null && `${Math.round(Number(b.level) * 100)} %`,
    b.look != null && b.look !== 'steady' && b.look,
  ],
  avatar: (b) => [
    b.model,
    b.outfit,
    b.expression,
    ...((b.expressions as string[] | undefined) ?? []),
    b.pose,
  ],
  voice: (b) => [
    b.preset,
    b.pitch != null && `pitch ${b.pitch}`,
    b.mix != null && `mix ${Math.round(Number(b.mix) * 100)} %`,
  ],
  haptics: (b) => [b.pattern],
  keys: (b) => [sayKeys(String(b.combo ?? ''))],
  tap: (b) => [sayKeys(String(b.combo ?? ''))],
}

export function sayBeat(beat: LooseBeat): string {
  const parts = SAID[beat.kind]?.(beat).filter((part) => typeof part === 'string' && part) ?? []
  return parts.join(', ') || beat.id
}
