import { describe, expect, it } from 'vitest'
import { openStation, reasonsFor, trueNow, wayOf, type Facts, type StationId } from './opening'

const NOTHING: Facts = { gear: [], pages: 0, seen: false, heard: false, cues: 0, lines: [], pretended: false }
const line = { kind: 'redemption', verdict: 'let_in', outcome: 'fulfilled', run: '1' }
const channel = { kind: 'channel', state: 'in_step' }

describe('what is true', () => {
  it.each<[string, Partial<Facts>, StationId[]]>([
    ['nothing at first', {}, []],
    ['a channel in step', { gear: [channel] }, ['hear']],
    ['a channel that is away', { gear: [{ kind: 'channel', state: 'away' }] }, []],
    ['gear that answers', { gear: [{ kind: 'lights', state: 'in_step' }] }, ['move']],
    ['a page that nobody saw', { pages: 1 }, []],
    ['a page that was seen and heard', { pages: 1, seen: true, heard: true }, ['seen']],
    ['seen once, but no page now', { seen: true, heard: true }, []],
    ['a cue', { cues: 1 }, ['cue']],
    ['a call that went all the way', { lines: [line] }, ['call']],
    [
      'a call that was turned away',
      { lines: [{ ...line, verdict: 'turned_away', outcome: 'refunded' }] },
      [],
    ],
    ['a pretend viewer', { pretended: true }, ['call']],
  ])('%s', (_, some, wanted) => {
    const told = trueNow({ ...NOTHING, ...some })
    expect(Object.entries(told).flatMap(([id, is]) => (is ? [id] : []))).toEqual(wanted)
  })

  it('opens the first station that is neither true nor left out', () => {
    const done = { ...trueNow(NOTHING), hear: true }
    expect(openStation(done, [])).toBe('seen')
    expect(openStation(done, ['seen', 'move'])).toBe('cue')
    expect(openStation({ hear: true, seen: true, move: true, cue: true, call: true }, [])).toBeNull()
  })
})

describe('how far a call has come', () => {
  it.each<[string, Parameters<typeof wayOf>, string[]]>([
    ['nothing yet', [undefined, [], false], []],
    ['let in', [{ ...line, outcome: '' }, [], false], ['letIn']],
    ['up', [{ ...line, outcome: '' }, [{ run: '1' }], false], ['letIn', 'up']],
    ['up and fulfilled', [line, [{ run: '1' }], true], ['letIn', 'up', 'fulfilled']],
    ['all the way', [line, [{ run: '2' }], true], ['letIn', 'up', 'gone', 'fulfilled']],
    ['turned away', [{ verdict: 'turned_away', outcome: 'refunded', run: '' }, [], false], []],
  ])('%s', (_, given, wanted) => {
    expect(Object.entries(wayOf(...given)).flatMap(([id, is]) => (is ? [id] : []))).toEqual(wanted)
  })
})

describe('why a test was missed', () => {
  const size = { width: 1920, height: 1080 }
  const page = { lag_ms: 1, width: 1920, height: 1080, blocked: false }
  it('asks for the sound first where it was not heard, and for the size where it was not seen', () => {
    expect(reasonsFor('heard', [page], size).map((one) => [one.what.slice(0, 11), one.sure])).toEqual([
      ['The browser', false],
      ['The page is', false],
      ['It isn’t 19', false],
    ])
    expect(reasonsFor('seen', [page], size)[0]!.what).toContain('1920 × 1080')
  })

  it('puts first what the page tells itself', () => {
    const blocked = reasonsFor('seen', [{ ...page, blocked: true }], size)[0]!
    expect([blocked.sure, blocked.mend]).toEqual([true, 'The page says so: click it once.'])
    const small = reasonsFor('heard', [{ ...page, width: 800, height: 600 }], size)[0]!
    expect([small.sure, small.mend]).toEqual([
      true,
      'The page is 800 × 600: set it to the size of the overlay.',
    ])
  })
})
