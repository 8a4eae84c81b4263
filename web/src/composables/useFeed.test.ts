import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { FakeSocket } from '@/overlay/fakeSocket'
import { useFeed } from './useFeed'

const last = FakeSocket.last

beforeEach(() => {
  FakeSocket.made = []
  vi.useFakeTimers()
  vi.stubGlobal('WebSocket', FakeSocket)
  vi.spyOn(Math, 'random').mockReturnValue(0)
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

it('hears, comes back after pauses that grow, and stays closed with its scope', () => {
  const heard: unknown[] = []
  const told: boolean[] = []
  const scope = effectScope()
  scope.run(() =>
    useFeed(
      '/api/feed',
      (message) => heard.push(message),
      (is) => told.push(is),
    ),
  )
  last().open()
  last().onmessage?.({ data: '{"t": "ready"}' })
  expect(heard).toEqual([{ t: 'ready' }])
  const pauses: number[] = []
  for (let n = 0; n < 7; n += 1) {
    const before = FakeSocket.made.length
    last().close()
    let waited = 0
    for (; FakeSocket.made.length === before; waited += 50) vi.advanceTimersByTime(50)
    pauses.push(waited)
  }
  expect(pauses).toEqual([100, 200, 400, 800, 1600, 2500, 2500])
  expect(told).toEqual([true, ...Array<boolean>(7).fill(false)])

  last().open()
  scope.stop()
  vi.advanceTimersByTime(60_000)
  expect(FakeSocket.made.length).toBe(8)
})
