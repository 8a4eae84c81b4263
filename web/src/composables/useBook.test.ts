import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it, vi } from 'vitest'
import { FakeServer } from './fakeServer'
import { useBook } from './useBook'

const there = vi.hoisted(() => ({ api: {} as Record<string, unknown>, said: [] as string[] }))
vi.mock('@/api/client', async (real) => ({ ...(await real<object>()), api: there.api }))
vi.mock('./useSay', () => ({ say: (text: string) => there.said.push(text) }))

let server: FakeServer
beforeEach(async () => {
  setActivePinia(createPinia())
  server = new FakeServer()
  there.said.length = 0
  Object.assign(there.api, server.api)
  await useBook().load()
})

it('edits on the version it has, and has the new one after', async () => {
  const book = useBook()
  await book.put('cues', { id: 'whistle', name: 'Whistle' })
  expect(server.edits()[0]?.body).toMatchObject({ version: 1, value: { name: 'Whistle' } })
  expect([book.version, book.book?.cues.length, book.outside]).toEqual([2, 1, 0])
  await book.remove('cues', 'whistle')
  expect([book.version, book.book?.cues.length]).toEqual([3, 0])
})

it('does not take its own edit for somebody else’s, whichever comes first', async () => {
  const book = useBook()
  await book.put('cues', { id: 'whistle' })
  await book.refresh(2)
  expect(book.outside).toBe(0)
  const early = book.put('cues', { id: 'bell' })
  await book.refresh(3)
  await early
  expect([book.version, book.outside]).toEqual([3, 0])
})

it('hears of what somebody else changed, also in the middle of its own edit', async () => {
  const book = useBook()
  server.version = 5
  await book.refresh(5)
  expect([book.version, book.outside]).toEqual([5, 1])
  await book.refresh(5)
  expect(book.outside, 'it is known already').toBe(1)
  const put = server.api.PUT
  there.api.PUT = async (...asked: Parameters<typeof put>) => {
    const answer = await put(...asked)
    server.version += 1
    return answer
  }
  await book.put('cues', { id: 'bell' })
  expect([book.version, book.outside]).toEqual([7, 2])
})

it('does not take one of two edits under way for somebody else’s', async () => {
  const book = useBook()
  let go: () => void = () => {}
  const slow = book.edit(async () => {
    server.version = 2
    await new Promise<void>((done) => (go = done))
    return { version: 2 }
  })
  await book.put('cues', { id: 'whistle' })
  expect([server.version, book.version]).toEqual([3, 3])
  go()
  await slow
  expect([book.version, book.outside]).toEqual([3, 0])
})

it('puts one after the other, and what the first changed stays', async () => {
  const book = useBook()
  await book.put('cues', { id: 'whistle', name: 'Whistle', tags: [] })
  const there = book.book?.cues[0]
  await Promise.all([
    book.put('cues', { ...there, id: 'whistle', name: 'Steam whistle' }),
    book.put('cues', { ...there, id: 'whistle', tags: ['loud'] }),
  ])
  expect(server.book.cues).toEqual([{ id: 'whistle', name: 'Steam whistle', tags: ['loud'] }])
  expect(server.edits().map((one) => (one.body as { version: number }).version)).toEqual([1, 2, 3])
  server.refuses = { status: 422, what: 'no' }
  const refused = book.put('cues', { ...book.book?.cues[0], id: 'whistle', name: '' })
  const fine = book.put('cues', { ...book.book?.cues[0], id: 'whistle', tags: ['soft'] })
  await expect(refused).rejects.toThrow('no')
  await fine
  expect(server.book.cues).toEqual([{ id: 'whistle', name: 'Steam whistle', tags: ['soft'] }])
})

it('hears of somebody else’s change also where its own edit is refused', async () => {
  const book = useBook()
  let go: () => void = () => {}
  server.busy = new Promise((done) => (go = done))
  server.refuses = { status: 409, what: 'The book was changed meanwhile.' }
  const refused = book.put('cues', { id: 'whistle' })
  server.version = 4
  await book.refresh(4)
  expect([book.version, book.outside], 'not while it is under way').toEqual([1, 0])
  go()
  await expect(refused).rejects.toThrow('changed meanwhile')
  expect([book.version, book.outside]).toEqual([4, 1])
})

it('an edit that is refused changes nothing here, and the next one goes on', async () => {
  const book = useBook()
  server.refuses = { status: 409, what: 'The book was changed meanwhile.' }
  await expect(book.put('cues', { id: 'whistle' })).rejects.toThrow('changed meanwhile')
  expect([book.version, book.book?.cues.length]).toEqual([1, 0])
  await book.put('cues', { id: 'whistle' })
  expect(book.version).toBe(2)
})

it('a setting of the house goes with the others as they are', async () => {
  await useBook().putHouse({ flash_guard: false } as never)
  expect(server.edits()[0]?.body).toMatchObject({ value: { most_text: 500, flash_guard: false } })
})

it('two settings changed at once are both kept', async () => {
  const book = useBook()
  await Promise.all([
    book.putHouse({ flash_guard: false } as never),
    book.putHouse({ most_text: 90 } as never),
  ])
  const last = server.edits().at(-1)?.body as { value: object }
  expect(last.value).toMatchObject({ flash_guard: false, most_text: 90 })
})

it('undoing says what it undid, and every editor takes the book anew', async () => {
  const book = useBook()
  await book.step(true)
  expect(there.said).toEqual(['Undone: Steam whistle'])
  expect(book.outside).toBe(1)
  expect(server.asked.some((one) => one.path === '/api/book/undo')).toBe(true)
})
