/** Arrivals at a glance: repeated calls are one row, and only the wanted kind is shown. */
import type { LedgerLine } from '@/api/client'

export type Wanted = 'all' | 'in' | 'away'
export type Tone = 'yes' | 'no' | 'plain'

/** The same call within this time of the previous one counts as repeated (ms). */
const AT_ONCE_MS = 10_000

export function toneOf(line: Pick<LedgerLine, 'verdict' | 'outcome'>): Tone {
  if (line.outcome === 'refunded' || line.verdict === 'turned_away') return 'no'
  return line.verdict === 'ignored' ? 'plain' : 'yes'
}

/** What can call a cue. */
export const CALL_KINDS = {
  reward: 'Reward',
  chat: 'Message',
  tip: 'Tip',
  follow: 'Follow',
  membership: 'Membership',
  raid: 'Raid',
  clock: 'Timer',
  count: 'Count',
  scene: 'Scene',
  hook: 'Hook',
  stream: 'Stream',
  said: 'Phrase',
} as const
const CALLERS: Record<string, string> = { ...CALL_KINDS, pad: 'Pad', try: 'Try', fire: 'Another cue' }

/** Who calls where no viewer does. */
export const callerOf = (line: Pick<LedgerLine, 'kind'>): string => CALLERS[line.kind] ?? line.kind

export interface Arrival {
  line: LedgerLine
  /** How many there are of it. */
  times: number
}

const alike = (a: LedgerLine, b: LedgerLine): boolean =>
  a.viewer === b.viewer &&
  a.viewer_name === b.viewer_name &&
  a.kind === b.kind &&
  a.cue === b.cue &&
  a.reward === b.reward &&
  a.reason === b.reason &&
  toneOf(a) === toneOf(b)

/** Returns lines, newest first: repeated calls of a viewer with the same verdict are one row, the newest. */
export function arrivals(lines: readonly LedgerLine[], wanted: Wanted): Arrival[] {
  const rows: (Arrival & { oldest: number })[] = []
  for (const line of lines) {
    const tone = toneOf(line)
    if ((wanted === 'in' && tone !== 'yes') || (wanted === 'away' && tone !== 'no')) continue
    const last = rows.at(-1)
    if (last && alike(last.line, line) && last.oldest - line.at <= AT_ONCE_MS) {
      last.times += 1
      last.oldest = line.at
    } else rows.push({ line, times: 1, oldest: line.at })
  }
  return rows.map(({ line, times }) => ({ line, times }))
}
