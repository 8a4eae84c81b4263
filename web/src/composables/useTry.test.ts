import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { effectScope, ref, type EffectScope } from 'vue'
import type { CueDraft } from './useCueDraft'
import { useTry, type Trying } from './useTry'

const there = vi.hoisted(() => ({
  said: [] as [string, string][],
  asked: [] as [string, Record<string, unknown>][],
  answers: {} as Record<string, unknown>,
}))
vi.mock('@/api/client', async (real) => ({
  ...(await real<object>()),
  api: {
    POST: (path: string, init: { body: Record<string, unknown> }) => {
      there.asked.push([path, init.body])
      const data = there.answers[path]
      if (data) return Promise.resolve({ data, response: { ok: true } })
      return Promise.resolve({
        error: { what: 'The cue has no beats.', do: '', problems: [] },
        response: { ok: false, status: 422 },
      })
    },
  },
}))
vi.mock('./useSay', () => ({
  say: (text: string, tone = 'plain') => there.said.push([text, tone]),
  attempt: async (work: () => Promise<unknown>) => {
    try {
      return await work()
    } catch (error) {
      there.said.push([(error as Error).message, 'wrong'])
    }
  },
}))

const HERE = '/api/building/try'
const AIR = '/api/cues/{cue_id}/try'
const look = { enter: 'none', leave: 'none', fade_in_s: 0, fade_out_s: 0 }
const show = (beat: string, at: number, until: number | null): object => ({
  t: 'show', run: 'try', beat, at, until, kind: 'caption', value: 'mind the gap', look,
}) // prettier-ignore

let scope: EffectScope
let trying: Trying
let stage: HTMLElement
const state = ref<'saved' | 'saving' | 'wrong'>('saved')
const flush = vi.fn(() => Promise.resolve())
const up = (): string[] => [...stage.children].map((node) => (node as HTMLElement).dataset.beat ?? '')

beforeEach(() => {
  vi.useFakeTimers({ now: 1_000_000 })
  setActivePinia(createPinia())
  Object.assign(there, { said: [], asked: [], answers: {} })
  state.value = 'saved'
  flush.mockClear()
  stage = document.createElement('div')
  document.body.replaceChildren(stage)
  scope = effectScope()
  const draft = { cue: ref({ id: 'whistle', name: 'Steam whistle' }), state, flush } as unknown as CueDraft
  trying = scope.run(() => useTry(draft)) as Trying
  trying.stage.value = stage
})
afterEach(() => {
  scope.stop()
  vi.useRealTimers()
})

async function here(messages: object[], length: number, more: object = {}): Promise<void> {
  there.answers[HERE] = { messages, length, failed: [], returns: [], ...more }
  await trying.here()
}

it('plays here what would be seen, at its time, and is over by itself', async () => {
  await here(
    [show('words', 0, 2000), show('late', 1500, 3000), { t: 'hide', at: 3000, run: 'try', beat: 'late' }],
    3000,
  )
  await vi.advanceTimersByTimeAsync(100)
  expect([up(), trying.playing.value]).toEqual([['words'], true])
  await vi.advanceTimersByTimeAsync(1500)
  expect(up()).toEqual(['words', 'late'])
  await vi.advanceTimersByTimeAsync(1000)
  expect(up()).toEqual(['late'])
  expect(trying.at.value).toBeGreaterThan(2400)
  await vi.advanceTimersByTimeAsync(1500)
  expect([up(), trying.playing.value, trying.at.value]).toEqual([[], false, null])
})

it('is told who is pretended and what is forced; nothing of it is kept in the cue', async () => {
  Object.assign(trying.pretend, {
    name: 'owlpost',
    role: '',
    text: 'slate blue',
    rolled: { dice: 'pair', other: '' },
  })
  await here([], 0)
  expect(there.asked[0]?.[1]).toMatchObject({
    viewer: { name: 'owlpost', roles: [], tier: 1 },
    text: 'slate blue',
    rolled: { dice: 'pair' },
    value: { id: 'whistle', name: 'Steam whistle' },
  })
  expect(flush).not.toHaveBeenCalled()
})

it('can be stopped, and the next try begins clean', async () => {
  await here([show('words', 0, null), show('late', 1000, null)], 9000)
  await vi.advanceTimersByTimeAsync(50)
  trying.stop()
  await vi.advanceTimersByTimeAsync(2000)
  expect([up(), trying.playing.value]).toEqual([[], false])
  await here([show('again', 0, null)], 9000)
  await vi.advanceTimersByTimeAsync(50)
  expect(up()).toEqual(['again'])
})

it('says what could not be done, and why nothing could', async () => {
  await here([], 0, {
    failed: ['For “whistle” the file is missing.'],
    returns: [{ path: 'light/signal/colour' }],
  })
  expect(there.said).toEqual([['For “whistle” the file is missing.', 'wrong']])
  expect(trying.returns.value).toEqual([{ path: 'light/signal/colour' }])
  delete there.answers[HERE]
  await trying.here()
  expect(there.said[1]).toEqual(['The cue has no beats.', 'wrong'])
})

it('goes on air after it is saved, says for how long, and forgets its speed', async () => {
  trying.pretend.speed = 4
  there.answers[AIR] = { failed: [], until: Date.now() + 12_000 }
  await trying.onAir()
  expect(flush).toHaveBeenCalledOnce()
  expect(there.asked[0]?.[1]).toMatchObject({ speed: 4, text: '' })
  expect(there.said).toEqual([['On air for 12 s, at ×4.', 'fine']])
  expect(trying.pretend.speed).toBe(1)

  there.answers[AIR] = { failed: [], until: null }
  await trying.onAir()
  expect(there.said[1]?.[0]).toBe('On air until released.')
})

it('does not go on air with what could not be saved', async () => {
  state.value = 'wrong'
  await trying.onAir()
  expect(there.asked).toEqual([])
})
