/** The sentence of a cue, in parts. Only words are put together here; what they mean is decided by the server. */
import type { Book, Cue } from '@/api/client'
import { ENTRY_NAMES, ROLE_NAMES } from '@/api/kinds'
import { sayCondition } from './conditions'
import { sayDuration } from './duration'

export type Call = Cue['calls'][number]

const MATCH: Record<string, string> = {
  is: 'is',
  starts: 'starts with',
  has_word: 'has the word',
  contains: 'contains',
}

function between(from?: number | null, to?: number | null): string {
  if (from && to) return ` of ${from} to ${to}`
  if (from) return ` of ${from} or more`
  return to ? ` of at most ${to}` : ''
}

function range(from: number | null | undefined, to: number | null | undefined, what: string): string {
  if (from && to) return `${from === to ? from : `${from} to ${to}`} ${what}`
  if (from) return `${from} or more ${what}`
  return to ? `up to ${to} ${what}` : ''
}

function months(call: Call & { kind: 'membership' }): string {
  const said = [
    range(call.months_from, call.months_to, 'months'),
    range(call.gifts_from, call.gifts_to, 'gifts'),
  ].filter(Boolean)
  return said.length ? `, ${said.join(', ')}` : ''
}

export function sayCall(call: Call, book: Book): string {
  switch (call.kind) {
    case 'reward': {
      const reward = book.rewards.find((r) => r.id === call.reward)
      return reward ? `${reward.title} (${reward.cost}) is redeemed` : 'a lost reward is redeemed'
    }
    case 'chat':
      return `a message ${MATCH[call.match]} “${call.text}”${call.cost && book.points.on ? ` (${call.cost} ${book.points.name})` : ''}`
    case 'tip':
      return `someone tips${between(call.from, call.to).replace(' of', '')}`
    case 'follow':
      return 'someone follows'
    case 'membership':
      return `someone becomes a member${call.tier ? ` of tier ${call.tier} or above` : ''}${months(call)}`
    case 'raid':
      return `a raid${between(call.from, call.to)} comes`
    case 'hook':
      return `the hook ${call.name} comes`
    case 'pad':
      return 'its pad is pressed'
    case 'clock':
      if (call.at_time) return `at ${call.at_time} while live`
      return call.every_min
        ? `every ${call.every_min} minutes on air`
        : `at minute ${call.at_min} of the stream`
    case 'count':
      return sayCountCall(call, book)
    case 'stream':
      return call.state === 'live' ? 'the stream goes live' : 'the stream ends'
    case 'scene':
      return `the scene ${call.scene} comes up`
  }
}

function sayCountCall(call: Call & { kind: 'count' }, book: Book): string {
  const name = book.counts.find((one) => one.id === call.count)?.name ?? 'a lost count'
  if (call.goal) return `${name} reaches its goal`
  return call.every ? `${name} goes up another ${call.every}` : `${name} reaches ${call.at}`
}

export function sayCalls(cue: Cue, book: Book): string {
  if (!cue.calls.length) return 'you press its pad'
  return cue.calls.map((call) => sayCall(call, book)).join(', or ')
}

function places(cue: Cue, book: Book): string {
  const { scenes, categories } = cue.door
  const air = cue.door.air ?? book.house.air
  const parts = [
    { any: '', live: 'while live', off: 'off air' }[air ?? 'any'],
    scenes.length ? `while ${scenes.join(' or ')} is on` : '',
    categories.length ? `in ${categories.join(' or ')}` : '',
    cue.door.only_if.length
      ? `if ${cue.door.only_if.map((one) => sayCondition(one, book)).join(' and ')}`
      : '',
  ]
  return parts
    .filter(Boolean)
    .map((part) => ` ${part}`)
    .join('')
}

export function sayWho(cue: Cue, book: Book): string {
  return people(cue) + places(cue, book)
}

function people(cue: Cue): string {
  if (cue.door.who.includes('everyone')) return 'anyone'
  const words = cue.door.who.map((role) =>
    role === 'member' && cue.door.tier > 1 ? `members of tier ${cue.door.tier}` : ROLE_NAMES[role],
  )
  return words.length > 1 ? `${words.slice(0, -1).join(', ')} and ${words.at(-1)}` : (words[0] ?? 'nobody')
}

function pace(seconds: number): string {
  if (seconds === 0) return 'as often as they like'
  if (seconds === 1) return 'once a second'
  if (seconds === 60) return 'once a minute'
  if (seconds === 3600) return 'once an hour'
  return `once in ${sayDuration(seconds)}`
}

export function sayPace(cue: Cue, book: Book): string {
  const own = cue.door.cooldown_s
  const shared = book.house.shared_cooldown_s
  const words =
    own !== null && own !== undefined ? pace(own) : `${pace(shared ?? book.house.cooldown_s)} (as the house)`
  const viewer = cue.door.viewer_cooldown_s
  const each = viewer ? `, each viewer ${pace(viewer)}` : ''
  const caps = sayCaps(cue)
  return words + each + (caps ? `, ${caps}` : '')
}

function sayCaps(cue: Cue): string {
  const caps = [
    cue.door.cap_stream ? `${cue.door.cap_stream} a stream` : '',
    cue.door.cap_viewer ? `${cue.door.cap_viewer} per viewer` : '',
    cue.door.cap_window ? `${cue.door.cap_window.count} in ${sayDuration(cue.door.cap_window.per_s)}` : '',
  ].filter(Boolean)
  return caps.length ? `at most ${caps.join(', ')}` : ''
}

/** What of a cue's rules is not as usual, in a few words; empty where all is. */
export function sayRule(cue: Cue, book: Book): string {
  const { door } = cue
  const { cooldown_s: own, viewer_cooldown_s: each } = door
  const isOwn = own !== null && own !== undefined && own !== book.house.cooldown_s
  const first = book.lanes[0]?.id ?? null
  const parts = [
    sayWho(cue, book).replace(/^anyone ?/, ''),
    isOwn ? pace(own) : '',
    each ? `each viewer ${pace(each)}` : '',
    sayCaps(cue),
    cue.entry !== 'queue' || (cue.lane && cue.lane !== first) ? sayLane(cue, book) : '',
  ]
  return parts.filter(Boolean).join('; ')
}

export const ENTRIES: { id: Cue['entry']; name: string; what: string }[] = [
  { id: 'queue', name: ENTRY_NAMES.queue, what: 'One after the other, as the lane has room.' },
  { id: 'overlap', name: ENTRY_NAMES.overlap, what: 'Beside whatever runs; takes no room in the lane.' },
  {
    id: 'solo',
    name: ENTRY_NAMES.solo,
    what: 'Waits until the lane is empty; while it runs nothing else starts anywhere.',
  },
  { id: 'replace', name: ENTRY_NAMES.replace, what: 'A new one ends the one of this cue that runs.' },
  {
    id: 'extend',
    name: ENTRY_NAMES.extend,
    what: 'While it runs, another call gives it its length once more.',
  },
  { id: 'refuse', name: ENTRY_NAMES.refuse, what: 'Turned away while this cue runs or waits.' },
]

export function sayLane(cue: Cue, book: Book): string {
  const lane = book.lanes.find((l) => l.id === cue.lane) ?? book.lanes[0]
  const entry = ENTRIES.find((e) => e.id === cue.entry)
  return `${entry?.name ?? cue.entry} in ${lane?.name ?? 'Main'}`
}

export function sayText(cue: Cue): string {
  const rule = cue.door.text
  if (!rule) return ''
  const kind = { any: 'a text', colour: 'a colour', number: 'a number', choice: 'one of the choices' }[
    rule.kind
  ]
  return rule.need ? `with ${kind}` : `maybe with ${kind}`
}
