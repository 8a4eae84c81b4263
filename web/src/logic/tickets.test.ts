import { describe, expect, it } from 'vitest'
import { found, sayLimits, sayMinutes, sayStanding, sayTonight, sorted, stampOf, type Row } from './tickets'

function row(title: string, ticket: Partial<Row['ticket']> = {}, tags: string[] = []): Row {
  const plain = {
    title,
    cost: 100,
    shows: true,
    on: true,
    paused: false,
    tonight: { calls: 0, refunds: 0, reason: '' },
    sets: [],
    cues: [],
    channels: [],
    per_stream: 0,
    per_viewer: 0,
    cooldown_s: 0,
  }
  return {
    ticket: { ...plain, ...ticket } as unknown as Row['ticket'],
    reward: { tags } as unknown as Row['reward'],
  }
}
const names = (rows: Row[]): string[] => rows.map((one) => one.ticket.title)

describe('rewards in order', () => {
  const rows = [
    row('Tea', { cost: 300, tonight: { calls: 2, refunds: 1, reason: 'enough' } }),
    row('Horn', { cost: 20, shows: false, channels: [{ standing: 'refused' }] as never }),
    row('Fog', { cost: 900, paused: true, tonight: { calls: 9, refunds: 0, reason: '' } }),
  ]
  it.each([
    ['order', ['Tea', 'Horn', 'Fog']],
    ['title', ['Fog', 'Horn', 'Tea']],
    ['cost', ['Horn', 'Tea', 'Fog']],
    ['tonight', ['Fog', 'Tea', 'Horn']],
    ['refunds', ['Tea', 'Fog', 'Horn']],
    ['on', ['Tea', 'Fog', 'Horn']],
    ['channel', ['Horn', 'Fog', 'Tea']],
  ] as const)('by %s', (by, wanted) => {
    expect(names(sorted(rows, by))).toEqual(wanted)
  })
})

it('finds by name, tag, set and cue', () => {
  const rows = [
    row('Tea', { sets: ['bench'] }, ['quiet']),
    row('Horn', { cues: [{ name: 'Night mail' }] as never }),
  ]
  expect(names(found(rows, 'ea', '', ''))).toEqual(['Tea'])
  expect(names(found(rows, 'MAIL', '', ''))).toEqual(['Horn'])
  expect(names(found(rows, '', 'quiet', ''))).toEqual(['Tea'])
  expect(names(found(rows, '', '', 'bench'))).toEqual(['Tea'])
  expect(names(found(rows, 'quiet', '', ''))).toEqual(['Tea'])
})

describe('in words', () => {
  it.each([
    [0.4, 'under a minute'],
    [25.2, '25 min'],
    [100, '1.5 h'],
    [120, '2 h'],
    [3_000, '2 days'],
  ])('%s minutes', (minutes, words) => expect(sayMinutes(minutes)).toBe(words))
  it('limits and the night', () => {
    const { ticket } = row('Tea', { per_stream: 3, per_viewer: 1, cooldown_s: 45 })
    expect(sayLimits(ticket)).toBe('3 a stream, 1 each, 45 s between')
    expect(sayTonight(ticket)).toBe('not redeemed tonight')
    const night = row('Tea', { tonight: { calls: 12, refunds: 2, reason: 'the line is full' } })
    expect(sayTonight(night.ticket)).toBe('12 tonight, 2 given back (the line is full)')
  })
  it('the stamp and the standing', () => {
    expect(stampOf(row('Tea').ticket)).toBe('')
    expect(stampOf(row('Tea', { paused: true }).ticket)).toBe('paused')
    expect(stampOf(row('Tea', { shows: false }).ticket)).toBe('held off')
    expect(stampOf(row('Tea', { shows: false, on: false }).ticket)).toBe('off')
    expect(sayStanding({ standing: 'gone' } as never)).toBe('removed there by hand')
  })
})
