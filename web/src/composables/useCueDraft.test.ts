import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref, type EffectScope } from 'vue'
import type { Cue } from '@/api/client'
import { FakeServer } from './fakeServer'
import { useBook } from './useBook'
import { useCueDraft, type CueDraft } from './useCueDraft'

const there = vi.hoisted(() => ({ api: {} as Record<string, unknown> }))
vi.mock('@/api/client', async (real) => ({ ...(await real<object>()), api: there.api }))

let server: FakeServer
let scope: EffectScope
let draft: CueDraft
const id = ref('whistle')

function cue(name: string, ...beats: string[]): Cue {
  const start = { at_s: 0, after: null, edge: 'end', hit: 1 }
  const made = beats.map((beat) => ({ id: beat, kind: 'caption', text: 'mind the gap', start, only_if: [] }))
  return { id: name, name, beats: made, calls: [], tags: [], door: { text: null } } as unknown as Cue
}
const kept = (): Cue | undefined => server.book.cues.find((one) => one.id === id.value)
async function passes(ms: number): Promise<void> {
  await nextTick()
  await vi.advanceTimersByTimeAsync(ms)
}

beforeEach(async () => {
  vi.useFakeTimers()
  localStorage.clear()
  setActivePinia(createPinia())
  server = new FakeServer()
  Object.assign(there.api, server.api)
  server.book = { ...server.book, cues: [cue('whistle', 'words', 'more'), cue('bell', 'words')] }
  await useBook().load()
  id.value = 'whistle'
  scope = effectScope()
  draft = scope.run(() => useCueDraft(() => id.value)) as CueDraft
  await passes(0)
})
afterEach(() => {
  scope.stop()
  vi.useRealTimers()
})

it('measures what it takes, and saves a change by itself, once, after a moment', async () => {
  expect(draft.spans.value.get('words')?.end).toEqual([2000, 2000])
  expect(server.edits()).toEqual([])
  draft.change('words', { text: 'mind' })
  draft.change('words', { text: 'mind the kettle' })
  await passes(200)
  expect([draft.state.value, server.edits().length]).toEqual(['saving', 0])
  await passes(400)
  expect([draft.state.value, server.edits().length]).toEqual(['saved', 1])
  expect(kept()?.beats[0]).toMatchObject({ text: 'mind the kettle' })
  expect(draft.beats.value[0], 'what is edited stays the same thing').toMatchObject({
    text: 'mind the kettle',
  })
})

it('keeps what was changed while it was being saved, and saves that too', async () => {
  let go: () => void = () => {}
  server.busy = new Promise((done) => (go = done))
  draft.change('words', { text: 'one' })
  await passes(400)
  draft.change('words', { text: 'two' })
  await passes(400)
  go()
  await passes(50)
  expect(draft.state.value).toBe('saved')
  expect(server.edits().map((one) => (one.body as { value: Cue }).value.beats[0])).toMatchObject([
    { text: 'one' },
    { text: 'two' },
  ])
})

it('says what is refused without the path, loses nothing, and is well once it is put right', async () => {
  server.refuses = { status: 422, what: 'cues[0].name must have a letter' }
  if (draft.cue.value) draft.cue.value.name = ''
  await passes(400)
  expect([draft.state.value, draft.problem.value]).toEqual(['wrong', 'name must have a letter'])
  expect(draft.cue.value?.name).toBe('')
  if (draft.cue.value) draft.cue.value.name = 'Steam whistle'
  await passes(400)
  expect([draft.state.value, draft.problem.value, kept()?.name]).toEqual(['saved', '', 'Steam whistle'])
})

it('saves what is left when it is closed', async () => {
  draft.change('words', { text: 'last' })
  await nextTick()
  scope.stop()
  await passes(10)
  expect(kept()?.beats[0]).toMatchObject({ text: 'last' })
})

it('takes what somebody else changed, and lets go of a beat that is gone', async () => {
  draft.choose('more', false)
  server.book = { ...server.book, cues: [cue('whistle', 'words')] }
  server.version = 9
  await useBook().refresh(9)
  await passes(0)
  expect(draft.beats.value.map((beat) => beat.id)).toEqual(['words'])
  expect(draft.chosen.value).toBeNull()
})

it('keeps what is not saved yet beside what somebody else changed, and saves both', async () => {
  draft.change('words', { text: 'mind the kettle' })
  await passes(100)
  const theirs = cue('whistle', 'words', 'bell')
  server.book = { ...server.book, cues: [{ ...theirs, name: 'Steam whistle' }] }
  server.version = 9
  await useBook().refresh(9)
  await passes(0)
  expect(draft.state.value).toBe('saving')
  expect(draft.beats.value).toMatchObject([{ id: 'words', text: 'mind the kettle' }, { id: 'bell' }])
  await passes(400)
  expect(draft.state.value).toBe('saved')
  expect(kept()).toMatchObject({
    name: 'Steam whistle',
    beats: [{ text: 'mind the kettle' }, { id: 'bell' }],
  })
})

it('takes what this page itself changed elsewhere just before', async () => {
  draft.change('words', { text: 'mind the kettle' })
  const other = useBook().put('cues', { ...cue('whistle', 'words', 'more'), on: false })
  await draft.flush()
  await other
  await passes(400)
  expect(kept()).toMatchObject({ on: false, beats: [{ text: 'mind the kettle' }, { id: 'more' }] })
  expect(draft.cue.value).toMatchObject({ on: false, beats: [{ text: 'mind the kettle' }, { id: 'more' }] })
  draft.change('words', { text: 'mind the gap' })
  await passes(400)
  expect([draft.state.value, kept()?.on, kept()?.beats[0]]).toMatchObject([
    'saved',
    false,
    { text: 'mind the gap' },
  ])
})

it('goes to another cue, and saves what is left of the one before', async () => {
  draft.change('words', { text: 'mind the kettle' })
  await passes(10)
  id.value = 'bell'
  await passes(0)
  expect(draft.cue.value?.name).toBe('bell')
  const saved = server.book.cues.find((one) => one.id === 'whistle')
  expect([server.edits().length, saved?.beats[0]]).toMatchObject([1, { text: 'mind the kettle' }])
  await passes(500)
  expect([server.edits().length, draft.state.value]).toEqual([1, 'saved'])
  id.value = 'gone'
  await passes(0)
  expect(draft.cue.value).toBeNull()
})

it('chooses several: they join, leave, and a plain choice of one of them keeps them', () => {
  draft.addBeat('caption', { text: 'third' })
  const ids = (): string[] => draft.picked.value.map((beat) => beat.id)
  expect(ids(), 'what is added is chosen').toEqual(['caption'])
  draft.choose('words', true)
  expect(ids()).toEqual(['caption', 'words'])
  draft.choose('caption', true)
  expect(ids()).toEqual(['words'])
  draft.chooseAll()
  expect(ids()).toEqual(['words', 'more', 'caption'])
  draft.choose('more', false)
  expect(ids()).toEqual(['more', 'words', 'caption'])
  draft.choose('nobody', false)
  expect(ids()).toEqual([])
})

it('copies beats to another cue under free names', async () => {
  draft.chooseAll()
  expect(draft.copy()).toBe(2)
  id.value = 'bell'
  await passes(0)
  expect(draft.paste()).toBe(2)
  expect(draft.beats.value.map((beat) => beat.id)).toEqual(['words', 'words-2', 'more'])
  expect(draft.picked.value.map((beat) => beat.id)).toEqual(['words-2', 'more'])
})

it('what hung on a beat that is removed begins at the start', () => {
  draft.change('more', { start: { at_s: 1, after: 'words', edge: 'end', hit: 1 } })
  draft.choose('words', false)
  draft.removeBeat('words')
  expect(draft.beats.value[0]?.start).toEqual({ at_s: 0, after: null, edge: 'end', hit: 1 })
  expect(draft.chosen.value).toBeNull()
})
