/** Rewards as the page shows them: sorted, found, and their state in words. What they mean is decided by the server. */
import type { Schemas } from '@/api/client'
import { sayDuration } from './duration'

export type Ticket = Schemas['TicketOut']
export type Reward = Schemas['Reward']
/** A reward of the book with how it stands. */
export interface Row {
  ticket: Ticket
  reward: Reward
}

export const SORTS = {
  order: 'as viewers see them',
  title: 'by name',
  cost: 'by price',
  tonight: 'by how often tonight',
  refunds: 'by refunds tonight',
  on: 'those that are on first',
  channel: 'what is not in step first',
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

/** How long one watches for it. */
export function sayMinutes(minutes: number): string {
  if (minutes < 1) return 'under a minute'
  if (minutes < 90) return `${Math.round(minutes)} min`
  const hours = minutes / 60
  return hours < 48 ? `${(Math.round(hours * 2) / 2).toString()} h` : `${Math.round(hours / 24)} days`
}

export function sayLimits(ticket: Ticket): string {
  return [
    ticket.per_stream ? `${ticket.per_stream} a stream` : '',
    ticket.per_viewer ? `${ticket.per_viewer} each` : '',
    ticket.cooldown_s ? `${sayDuration(ticket.cooldown_s)} between` : '',
  ]
    .filter(Boolean)
    .join(', ')
}

export function sayTonight(ticket: Ticket): string {
  const { calls, refunds, reason } = ticket.tonight
  if (!calls) return 'not redeemed tonight'
  const back = refunds ? `, ${refunds} given back (${reason})` : ''
  return `${calls} tonight${back}`
}

const STANDINGS: Record<Schemas['StandOut']['standing'], string> = {
  in_step: 'in step',
  waiting: 'on its way',
  gone: 'removed there by hand',
  refused: 'refused there',
  elsewhere: 'made elsewhere',
  missing: 'not there',
  away: 'away',
}

export function sayStanding(one: Schemas['StandOut']): string {
  return STANDINGS[one.standing]
}

/** Why viewers cannot have it now, in a word for the ticket's stamp; empty while they can. */
export function stampOf(ticket: Ticket): string {
  if (!ticket.shows) return ticket.on ? 'held off' : 'off'
  return ticket.paused ? 'paused' : ''
}
