/** Rewards as the page shows them: sorted and filtered. */
import type { Schemas } from '@/api/client'

type Ticket = Schemas['TicketOut']
export type Reward = Schemas['Reward']
/** A reward of the book with its state. */
export interface Row {
  ticket: Ticket
  reward: Reward
}

export const SORTS = {
  order: 'in channel order',
  title: 'by name',
  cost: 'by price',
  tonight: 'most redeemed tonight',
  refunds: 'most refunded tonight',
  on: 'available first',
  channel: 'out of sync first',
} as const
export type Sort = keyof typeof SORTS

type Rank = (row: Row) => number
const RANKS: Record<Exclude<Sort, 'order' | 'title'>, Rank> = {
  cost: ({ ticket }) => ticket.cost,
  tonight: ({ ticket }) => -ticket.tonight.calls,
  refunds: ({ ticket }) => -ticket.tonight.refunds,
  on: ({ ticket }) => (ticket.shows && !ticket.paused ? 0 : ticket.shows ? 1 : 2),
  channel: ({ ticket }) => (ticket.channels.every((one) => one.standing === 'in_step') ? 1 : 0),
}

export function sorted(rows: readonly Row[], by: Sort): Row[] {
  if (by === 'order') return [...rows]
  const name = (a: Row, b: Row): number => a.ticket.title.localeCompare(b.ticket.title)
  if (by === 'title') return [...rows].sort(name)
  const rank = RANKS[by]
  return [...rows].sort((a, b) => rank(a) - rank(b) || name(a, b))
}

export function found(rows: readonly Row[], text: string, tag: string, set: string): Row[] {
  const wanted = text.trim().toLowerCase()
  return rows.filter(
    ({ ticket, reward }) =>
      (!tag || reward.tags.includes(tag)) &&
      (!set || ticket.sets.includes(set)) &&
      [ticket.title, ...reward.tags, ...ticket.cues.map((cue) => cue.name)].some((name) =>
        name.toLowerCase().includes(wanted),
      ),
  )
}
