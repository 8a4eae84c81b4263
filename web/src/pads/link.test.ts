import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { FakeSocket } from '@/overlay/fakeSocket'
import { offerOf, PadsLink, sign, type LinkState, type PadsMessage } from './link'

const KEY = '11'.repeat(32)
const OURS = 'ab'.repeat(32)
type Said = { t: string; number: string; signature: string; n: number; body: string; pair: boolean }

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('WebSocket', FakeSocket)
  FakeSocket.made = []
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

function begin(pair = false): { link: PadsLink; states: LinkState[]; heard: PadsMessage[]; kept: object[] } {
  const states: LinkState[] = []
  const heard: PadsMessage[] = []
  const kept: object[] = []
  const link = new PadsLink(
    'ws://halt/feed',
    { device: 'd1', key: KEY, pair },
    {
      state: (state) => states.push(state),
      hear: (message) => heard.push(message),
      paired: (identity) => kept.push(identity),
    },
  )
  return { link, states, heard, kept }
}

const said = (i: number): Said => JSON.parse(FakeSocket.last().sent[i] ?? '{}') as Said
const tell = (message: object): void => FakeSocket.last().onmessage?.({ data: JSON.stringify(message) })

/** Accepts the device. Returns its nonce for this connection. */
function letIn(key = KEY): string {
  FakeSocket.last().open()
  const mine = said(0).number
  tell({ t: 'challenge', number: OURS })
  tell({ t: 'welcome', signature: sign(key, 'welcome', mine, OURS), name: 'Phone', limited: false })
  return mine
}

describe('the link of a code', () => {
  it('is read from behind the # alone', () => {
    expect(offerOf(`#pair.0a1b.${KEY}`)).toEqual({ device: '0a1b', key: KEY, pair: true })
    for (const odd of ['', '#', `#pair.0a1b.${KEY}00`, '#pair.../.x', `pair.0a1b.${KEY}`])
      expect(offerOf(odd)).toBeNull()
  })
})

describe('the way to Cue Jar', () => {
  it('proves its key over both numbers, and signs what it asks for', async () => {
    const { link, states } = begin()
    const mine = letIn()
    expect(said(0)).toMatchObject({ t: 'hello', device: 'd1', pair: false })
    expect(said(1)).toEqual({ t: 'prove', signature: sign(KEY, 'prove', mine, OURS) })
    expect(states.at(-1)).toEqual({ is: 'in', name: 'Phone', limited: false })
    const first = link.ask({ do: 'press', cue: 'bell' })
    const second = link.ask({ do: 'rest' })
    expect(said(2).signature).toBe(sign(KEY, 'do', mine, OURS, '1', said(2).body))
    expect(said(3)).toMatchObject({ n: 2, body: '{"do":"rest"}' })
    tell({ t: 'done', n: 2, ok: true, what: '' })
    tell({ t: 'done', n: 1, ok: false, what: 'the house is closed' })
    expect(await first).toBe('the house is closed')
    expect(await second).toBe('')
    expect(FakeSocket.last().sent.join()).not.toContain(KEY)
    link.stop()
  })

  it('has a key of its own once it is paired, and the number is another on each connection', () => {
    const { link, states, kept } = begin(true)
    FakeSocket.last().open()
    const mine = said(0).number
    tell({ t: 'challenge', number: OURS })
    expect(said(1).signature).toBe(sign(KEY, 'pair', mine, OURS))
    tell({ t: 'paired', device: 'd7' })
    const key = sign(KEY, 'device', 'd7', mine, OURS)
    expect(kept).toEqual([{ device: 'd7', key }])
    tell({ t: 'welcome', signature: sign(key, 'welcome', mine, OURS), name: 'Phone', limited: true })
    expect(states.at(-1)).toEqual({ is: 'in', name: 'Phone', limited: true })
    FakeSocket.last().drop()
    vi.advanceTimersByTime(5000)
    FakeSocket.last().open()
    expect(said(0)).toMatchObject({ device: 'd7', pair: false })
    expect(said(0).number).not.toBe(mine)
    link.stop()
  })

  it('asks nothing of somebody who does not know the key', async () => {
    const { link, states } = begin()
    FakeSocket.last().open()
    tell({ t: 'challenge', number: OURS })
    tell({ t: 'welcome', signature: '00'.repeat(32), name: 'Phone', limited: false })
    expect(states.at(-1)).toEqual({ is: 'stranger' })
    expect(await link.ask({ do: 'rest' })).toContain('no connection')
    vi.advanceTimersByTime(60_000)
    expect(FakeSocket.made).toHaveLength(1)
  })

  it('says so when the net is gone, comes back by itself, and lets go then what was let go meanwhile', async () => {
    const { link, states } = begin()
    letIn()
    const lost = link.ask({ do: 'press', cue: 'bell' })
    FakeSocket.last().drop()
    expect(await lost).toContain('lost before the answer')
    expect(states.at(-1)).toEqual({ is: 'away' })
    expect(await link.ask({ do: 'let_go', cue: 'gap' })).toContain('nothing was done')
    vi.advanceTimersByTime(400)
    expect(FakeSocket.made).toHaveLength(2)
    letIn()
    expect(JSON.parse(said(2).body)).toEqual({ do: 'let_go', cue: 'gap' })
    link.stop()
  })

  it('takes a net that says nothing for gone', () => {
    const { link, states } = begin()
    letIn()
    vi.advanceTimersByTime(3000)
    expect(said(2).t).toBe('ping')
    tell({ t: 'pong', sent: 1 })
    vi.advanceTimersByTime(9500)
    expect(states.map((state) => state.is)).toContain('away')
    link.stop()
  })

  it('waits as long as it is told to, and for ever once it is nobody', () => {
    const { link, states } = begin()
    FakeSocket.last().open()
    tell({ t: 'refused', why: 'slow', wait_ms: 20_000 })
    expect(states.at(-1)).toEqual({ is: 'refused', why: 'slow' })
    vi.advanceTimersByTime(19_000)
    expect(FakeSocket.made).toHaveLength(1)
    vi.advanceTimersByTime(2000)
    expect(FakeSocket.made).toHaveLength(2)
    FakeSocket.last().open()
    tell({ t: 'refused', why: 'unknown', wait_ms: 0 })
    vi.advanceTimersByTime(60_000)
    expect(FakeSocket.made).toHaveLength(2)
    link.stop()
  })
})
