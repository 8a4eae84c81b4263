import { describe, expect, it } from 'vitest'
import { found, sorted, type Row } from './tickets'

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
