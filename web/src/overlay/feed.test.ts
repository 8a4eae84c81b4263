import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { FakeSocket } from './fakeSocket'
import { openFeed } from './feed'

beforeEach(() => {
  FakeSocket.made = []
  vi.useFakeTimers()
  vi.stubGlobal('WebSocket', FakeSocket)
  vi.spyOn(Math, 'random').mockReturnValue(0)
})
afterEach(() => vi.useRealTimers())

const last = FakeSocket.last

it('hears, and says whether it is connected once for each change', () => {
  const heard: unknown[] = []
  const told: boolean[] = []
  const feed = openFeed(
    '/api/feed',
    (message) => heard.push(message),
    (is) => told.push(is),
  )
  expect(last().url).toMatch(/^ws:\/\/.*\/api\/feed$/)
  last().open()
  last().onmessage?.({ data: '{"t": "ready"}' })
  expect(heard).toEqual([{ t: 'ready' }])
  expect(feed.connected()).toBe(true)
  last().drop()
  last().drop()
  expect(told).toEqual([true, false])
})

it('comes back after pauses that grow, and from the first again once it was there', () => {
  openFeed('/api/feed', () => {})
  const pauses: number[] = []
  for (let n = 0; n < 7; n += 1) {
    const before = FakeSocket.made.length
    last().drop()
    let waited = 0
    while (FakeSocket.made.length === before) {
      vi.advanceTimersByTime(50)
      waited += 50
    }
    pauses.push(waited)
  }
  expect(pauses).toEqual([100, 200, 400, 800, 1000, 1000, 1000])
  last().open()
  last().drop()
  vi.advanceTimersByTime(100)
  expect(FakeSocket.made.length).toBe(9)
})

it('stays closed when it was closed', () => {
  const feed = openFeed('/api/feed', () => {})
  last().open()
  feed.close()
  vi.advanceTimersByTime(60_000)
  expect(FakeSocket.made.length).toBe(1)
  expect(feed.connected()).toBe(false)
})

it('counts as lost when nothing is heard, or it takes too long to connect', () => {
  const told: boolean[] = []
  openFeed(
    '/api/feed',
    () => {},
    (is) => told.push(is),
  )
  last().open()
  for (let second = 0; second < 20; second += 1) {
    last().onmessage?.({ data: '{"t": "pong"}' })
    vi.advanceTimersByTime(1000)
  }
  expect(FakeSocket.made.length).toBe(1)
  vi.advanceTimersByTime(7200)
  expect(told).toEqual([true, false])
  const before = FakeSocket.made.length
  expect(before).toBe(2)
  // Nobody answers there now.
  vi.advanceTimersByTime(9000)
  expect(FakeSocket.made.length).toBeGreaterThanOrEqual(before + 2)
  last().open()
  expect(told).toEqual([true, false, true])
})

it('is as secure as its page', () => {
  vi.stubGlobal('location', { protocol: 'https:', host: 'halt.local:8706' })
  openFeed('/overlay/x/feed', () => {})
  expect(last().url).toBe('wss://halt.local:8706/overlay/x/feed')
  vi.unstubAllGlobals()
})
