/** Lanes and what is in them. */
import type { Book, Cue, Schemas } from '@/api/client'
import { DEFAULT_LANE } from '@/api/kinds'
import { sayNumber } from './words'

export type Lane = Schemas['Lane']

/** Every lane with its cues; a cue without a lane is in the first. */
export function lanesOf(book: Book): { lane: Lane; cues: Cue[] }[] {
  const lanes = book.lanes.length ? book.lanes : [DEFAULT_LANE]
  return lanes.map((lane, i) => ({
    lane,
    cues: book.cues.filter((cue) => (cue.lane ? cue.lane === lane.id : i === 0)),
  }))
}

/** `2 of 3 on, 4 wait` */
export function saidOfLane(lane: { runs: number; width: number; waits: number }): string {
  const of = lane.runs <= lane.width ? ` of ${sayNumber(lane.width)}` : ''
  const on = lane.runs ? `${sayNumber(lane.runs)}${of} on` : 'free'
  return lane.waits ? `${on}, ${sayNumber(lane.waits)} ${lane.waits === 1 ? 'waits' : 'wait'}` : on
}
