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
  last().onmessage({ data: '{"t": "ready"}' })
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
  expect(pauses).toEqual([100, 200, 400, 800, 1600, 2500, 2500])
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
