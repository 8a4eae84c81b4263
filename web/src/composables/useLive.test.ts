import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { watch } from 'vue'
import { useLive } from './useLive'

const there = vi.hoisted(() => ({
  hear: (() => {}) as (message: unknown) => void,
  told: (() => {}) as (is: boolean) => void,
  refresh: [] as number[],
  said: [] as string[],
  answer: {} as unknown,
}))
vi.mock('./useFeed', () => ({
  useFeed: (_: string, hear: (message: unknown) => void, told: (is: boolean) => void) => {
    Object.assign(there, { hear, told })
  },
}))
vi.mock('./useBook', () => ({
  useBook: () => ({ refresh: (version: number) => there.refresh.push(version) }),
}))
vi.mock('./useSay', () => ({ say: (text: string) => there.said.push(text) }))
vi.mock('@/api/client', async (real) => ({
  ...(await real<object>()),
  api: { POST: () => Promise.resolve({ data: there.answer, response: { ok: true } }) },
}))

beforeEach(() => {
  vi.useFakeTimers({ now: 50_000 })
  setActivePinia(createPinia())
  Object.assign(there, { refresh: [], said: [] })
})
afterEach(() => vi.useRealTimers())

const part = (of: string, value: unknown, now = 50_000): void => there.hear({ t: 'part', of, value, now })
const lane = (id: string, ...cues: string[]): object => ({
  id,
  running: cues.map((cue) => ({ cue })),
  waiting: [],
})
const line = (id: number, outcome = 'let in'): object => ({ id, outcome })

it('is nothing until the show is told, and then what was told, part by part', () => {
  const live = useLive()
  expect(live.state).toBeNull()
  part('held', [{ path: 'broadcast/scene' }])
  expect(live.state).toBeNull()
  part('show', { on_air: true, category: 'Model railways' })
  expect(live.state).toMatchObject({ on_air: true, held: [{ path: 'broadcast/scene' }], gear: [], lanes: [] })
})

it('keeps lanes in the order that is told, and knows what runs', () => {
  const live = useLive()
  part('show', {})
  part('lane', lane('yard', 'whistle'))
  part('lane', lane('stage', 'mail', 'snow'))
  expect(live.state?.lanes, 'nobody said yet which there are').toEqual([])
  part('lanes', ['stage', 'gone', 'yard'])
  expect(live.state?.lanes.map((one) => one.id)).toEqual(['stage', 'yard'])
  expect([...live.runningCues]).toEqual(['mail', 'snow', 'whistle'])
  part('lane', lane('stage'))
  expect([...live.runningCues]).toEqual(['whistle'])
})

it('has the last lines of the ledger, each once, the newest first', () => {
  const live = useLive()
  there.hear({ t: 'ledger', lines: [line(1), line(2)] })
  there.hear({ t: 'ledger', lines: [line(2, 'fulfilled'), line(3)] })
  expect(live.lines).toMatchObject([line(3), line(2, 'fulfilled'), line(1)])
  there.hear({ t: 'ledger', lines: Array.from({ length: 200 }, (_, i) => line(i + 4)) })
  expect([live.lines.length, live.lines[0]?.id]).toEqual([120, 203])
})

it('begins anew with a whole, and takes the book it is told of', () => {
  const live = useLive()
  there.hear({ t: 'ledger', lines: [line(1)] })
  there.hear({ t: 'whole', version: 4 })
  there.hear({ t: 'book', version: 5 })
  expect(live.lines).toEqual([])
  expect(there.refresh).toEqual([4, 5])
})

it('counts by the server’s clock', () => {
  const live = useLive()
  part('show', {}, 58_000)
  vi.advanceTimersByTime(1_000)
  expect(live.now).toBeGreaterThan(58_900)
  expect(live.now).toBeLessThan(59_100)
  // Smooth enough to count down, and no more work than that.
  const seen: number[] = []
  const stop = watch(
    () => live.now,
    (now) => seen.push(now),
    { flush: 'sync' },
  )
  vi.advanceTimersByTime(1000)
  stop()
  expect(seen).toHaveLength(10)
})

it('says whether the line is there', () => {
  const live = useLive()
  there.told(false)
  expect(live.connected).toBe(false)
  there.told(true)
  expect(live.connected).toBe(true)
})

it('says what went to rest', async () => {
  const live = useLive()
  there.answer = { ended: ['Night mail'], dropped: ['Steam whistle'] }
  await live.allToRest()
  there.answer = { ended: [], dropped: [] }
  await live.allToRest()
  expect(there.said).toEqual([
    'Ended: Night mail, Steam whistle (waiting, refunded)',
    'Everything was already at rest.',
  ])
})
