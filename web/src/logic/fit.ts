/** Fits a sound and a picture to each other, by the server's times of the beats. */
import type { AnyBeat } from '@/api/client'
import { BEAT_KINDS } from '@/api/kinds'
import type { Span } from '@/composables/useCueDraft'

/** The last picture beside a sound, and its end in ms; none if there is no picture or it is open. */
function lastSeen(beats: AnyBeat[], spans: Map<string, Span>): { beat: AnyBeat; span: Span } | null {
  const seen = beats
    .filter((beat) => BEAT_KINDS[beat.kind].seen && BEAT_KINDS[beat.kind].way === 'shown')
    .flatMap((beat) => {
      const span = spans.get(beat.id)
      return span && span.end_latest !== null ? [{ beat, span }] : []
    })
  return seen.sort((a, b) => (b.span.end_latest ?? 0) - (a.span.end_latest ?? 0))[0] ?? null
}

/** The change that makes a sound end with the last picture; null if that is impossible. */
export function soundToPicture(
  sound: AnyBeat,
  beats: AnyBeat[],
  spans: Map<string, Span>,
): { length: { s: number }; fade_out_s: number } | null {
  const last = lastSeen(beats, spans)
  const span = spans.get(sound.id)
  const left = last && span ? ((last.span.end_latest ?? 0) - span.start) / 1000 : 0
  return left > 0.05
    ? { length: { s: left }, fade_out_s: Number(sound.fade_out_s) || Math.min(0.3, left / 4) }
    : null
}

/** The picture that should last as long as a sound, and how long. */
export function pictureToSound(
  sound: AnyBeat,
  beats: AnyBeat[],
  spans: Map<string, Span>,
): { id: string; length: { s: number } } | null {
  const last = lastSeen(beats, spans)
  const span = spans.get(sound.id)
  const left = last && span?.end_latest ? (span.end_latest - last.span.start) / 1000 : 0
  return last && left > 0.05 ? { id: last.beat.id, length: { s: left } } : null
}
