import { beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import type { AnyBeat } from '@/api/client'
import { planted, shelve, shelved } from './beats'
import { coveredOn } from './covered'
import { freeId } from './ids'

function beat(id: string, more: Record<string, unknown> = {}): AnyBeat {
  const start = { at_s: 0, after: null, edge: 'end', hit: 1 }
  return { id, kind: 'caption', text: 'mind the gap', start, only_if: [], ...more } as unknown as AnyBeat
}
const after = (id: string): Record<string, unknown> => ({
  start: { at_s: 1.5, after: id, edge: 'start', hit: 1 },
})

describe('beats put down elsewhere', () => {
  it('get ids that are free, and keep what hangs together', () => {
    const copies = planted([beat('bell'), beat('words', after('bell'))], [beat('bell'), beat('words-2')])
    expect(copies.map((copy) => copy.id)).toEqual(['bell-2', 'words'])
    expect(copies[1]?.start).toEqual({ at_s: 1.5, after: 'bell-2', edge: 'start', hit: 1 })
  })

  it('let go of what is not there, and keep what is', () => {
    const [lost, kept] = planted([beat('a', after('gone')), beat('b', after('here'))], [beat('here')])
    expect(lost?.start).toEqual({ at_s: 1.5, after: null, edge: 'end', hit: 1 })
    expect(kept?.start.after).toBe('here')
  })

  it('begin no earlier than their run when their anchor is gone', () => {
    const early = { start: { at_s: -2, after: 'gone', edge: 'end', hit: 1 } }
    expect(planted([beat('a', early)], [])[0]?.start.at_s).toBe(0)
  })

  it('keep conditions on what comes with them or is there', () => {
    const dice = beat('dice', { kind: 'chance', outcomes: [{ id: 'pair' }] })
    const only_if = [
      { rolled: 'pair' },
      { rolled: 'gone' },
      { drawn: 'dice', value: 'x' },
      { role: 'member' },
    ]
    const copy = planted([dice, beat('words', { only_if })], [beat('dice')])[1]
    expect(copy?.only_if).toEqual([{ rolled: 'pair' }, { drawn: 'dice-2', value: 'x' }, { role: 'member' }])
  })

  it('are copies: the shelf and the first stay as they were', () => {
    const first = beat('a', after('b'))
    const copy = planted([first, beat('b')], [beat('b')])[0]
    if (copy) copy.start.at_s = 9
    expect(first.start.at_s).toBe(1.5)
  })
})

describe('the shelf', () => {
  beforeEach(() => localStorage.clear())

  it('keeps beats for another window', async () => {
    expect(shelved()).toEqual([])
    shelve([beat('a')])
    expect(shelved()).toEqual([beat('a')])
    await nextTick()
    expect(JSON.parse(localStorage.getItem('cue-jar-beats') ?? '')).toEqual([beat('a')])
  })

  it.each(['{', '7', '{"a": 1}'])('is empty where it cannot be read: %s', async (odd) => {
    localStorage.setItem('cue-jar-beats', odd)
    vi.resetModules()
    const fresh = await import('./beats')
    expect(fresh.shelved()).toEqual([])
  })
})

it('shows one of the beats at a place that do not all play: the chosen one, or the first', () => {
  const sure = { only_if: [{ rolled: 'double' }], place: { x: 0, y: 0 } }
  const rows = [
    beat('plain', { place: { x: 0, y: 0 } }),
    beat('a', sure),
    beat('b', sure),
    beat('c', { ...sure, place: { x: 1, y: 0 } }),
  ]
  expect([...coveredOn(rows, null)]).toEqual(['b'])
  expect([...coveredOn(rows, 'b')]).toEqual(['a'])
})

it('finds the first free number', () => {
  expect(freeId('bell', new Set())).toBe('bell')
  expect(freeId('bell', new Set(['bell', 'bell-2', 'bell-4']))).toBe('bell-3')
})
