import { describe, expect, it } from 'vitest'
import type { Held } from '@/composables/useLive'
import { heldByRun, inWords } from './held'

const hold = (path: string, more: Partial<Held> = {}): Held => ({
  path,
  name: path.split('/').slice(1).join(' '),
  thing: path === 'broadcast/scene' ? 'the scene' : (path.split('/').at(-2) ?? ''),
  output: path.startsWith('light') ? 'light' : 'broadcast',
  value: 'Night mail',
  returns_to: 'Workbench',
  rest: 'Workbench',
  run: '1',
  beat: 'scene',
  cue: 'Night mail',
  viewer: 'owlpost',
  since: 1000,
  until: 9000,
  layers: 1,
  viewer_id: '',
  ...more,
})
const run = (id: string, beats: [string, string, number | null][]) => ({
  run: id,
  cue: 'c',
  name: `Cue ${id}`,
  viewer: 'bramble_jo',
  text: '',
  redemption: null,
  call: '',
  entry: 'queue',
  viewer_id: '',
  started: 500,
  until: null,
  beats: beats.map(([beat, kind, until]) => ({ beat, kind, output: kind, until })),
})

describe('held by run', () => {
  it.each([
    [['a'], 'a'],
    [['a', 'b'], 'a and b'],
    [['a', 'b', 'c'], 'a, b and c'],
    [['a', 'a', 'b'], 'a and b'],
    [['a', 'b', 'c', 'd'], 'a, b and 2 more'],
  ])('%j in words', (names, said) => expect(inWords(names)).toBe(said))

  it('tells one story a run: what it holds, what goes back, until when', () => {
    const source = hold('broadcast/source/Night mail/Mail 2/visible', {
      value: true,
      returns_to: false,
      beat: 'mail',
      until: 12000,
    })
    const [row, ...others] = heldByRun(
      [hold('broadcast/scene'), source],
      [run('1', [['words', 'caption', 5000]])],
    )
    expect(others).toEqual([])
    expect([row!.name, row!.viewer, row!.until, row!.since]).toEqual(['Cue 1', 'bramble_jo', 12000, 500])
    expect(row!.what).toBe('the scene, Mail 2 and caption')
    expect(row!.back).toBe('back to Workbench')
    expect(row!.parts.map((part) => [part.beat, part.after])).toEqual([
      ['words', 'disappears'],
      ['scene', 'returns to Workbench'],
      ['mail', 'returns to off'],
    ])
  })

  it('puts first what ends next, and last what stays open', () => {
    const rows = heldByRun(
      [
        hold('a/x', { run: '1', until: null }),
        hold('a/y', { run: '2', until: 4000 }),
        hold('a/z', { run: '3', until: 2000 }),
      ],
      [],
    )
    expect(rows.map((row) => row.run)).toEqual(['3', '2', '1'])
  })

  it('leaves out what shows no change, and says what was set by hand meanwhile', () => {
    const same = hold('broadcast/scene', { value: 'Workbench' })
    expect(heldByRun([same], [])).toEqual([])
    const [row] = heldByRun([], [run('1', [['lamp', 'light', 5000]])])
    expect([row!.what, row!.parts[0]!.after]).toEqual([
      'lamp (not on top)',
      'changed by hand, or below another',
    ])
  })

  it('takes lamps that show the same as one', () => {
    const lamps = ['signal', 'flood'].map((lamp) =>
      hold(`light/${lamp}/colour`, { value: '#d2281e', returns_to: '#ffffff' }),
    )
    const [row] = heldByRun(lamps, [])
    expect([row!.what, row!.parts.length, row!.parts[0]!.swatch]).toEqual(['2 lamps', 1, '#d2281e'])
  })
  it('says which rewards are available', () => {
    const held = ['Tint the bench', 'Fog'].map((reward) =>
      hold(`reward/${reward}/on`, { value: true, returns_to: false, thing: reward }),
    )
    const [row] = heldByRun(held, [])
    expect([row!.what, row!.parts[0]!.what]).toEqual([
      'Tint the bench and Fog available',
      'Tint the bench: available',
    ])
  })
})
