/** The server's book, and the only way to change it. Every edit counts from the next call on. */
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, got, upload, type Book, type Cue, type Media } from '@/api/client'
import type { paths } from '@/api/schema'
import { merged } from '@/logic/merging'
import { bookSince, mediaSince } from '@/logic/since'
import { say } from './useSay'

type Entry = { id: string } & Record<string, unknown>
/** The single parts of the book. */
type Part = 'house' | 'reading' | 'points' | 'playbill'
type ListName = paths['/api/book/{kind}/{thing}']['put']['parameters']['path']['kind']

export const useBook = defineStore('book', () => {
  const book = shallowRef<Book | null>(null)
  const version = ref(0)
  const undoSteps = ref(0)
  const redoSteps = ref(0)
  /** What the next undo and redo would change. */
  const undoes = ref('')
  const redoes = ref('')
  const media = shallowRef<Media[]>([])
  /** Grows when the book was changed by something else than this page's own saving. */
  const outside = ref(0)
  let own = 0
  let inFlight = 0
  /** The version that this page's editors know. */
  let known = 0
  /** What the feed reported during an edit. */
  let missed = 0
  let line: Promise<unknown> = Promise.resolve()

  let mark = ''
  let loading: Promise<unknown> = Promise.resolve()

  /** Fetches what changed since this page last looked. One after the other: each knows what the one before brought. */
  function load(): Promise<void> {
    const loaded = loading.then(loadNow)
    loading = loaded.catch(() => {})
    return loaded
  }

  async function loadNow(): Promise<void> {
    const params = { path: { version: book.value ? version.value : 0 }, query: { media: mark } }
    const answer = await got(api.GET('/api/book/since/{version}', { params }))
    book.value = answer.book ?? (book.value && bookSince(book.value, answer))
    media.value = mediaSince(media.value, answer)
    mark = answer.media.mark
    version.value = answer.version
    undoSteps.value = answer.undo
    redoSteps.value = answer.redo
    undoes.value = answer.undoes
    redoes.value = answer.redoes
    if (!inFlight) known = version.value
  }

  /** Runs an edit of this page; reports about it meanwhile don't count as somebody else's, even with other edits in progress. */
  function edit<T extends { version: number }>(work: () => Promise<T>): Promise<T> {
    return underWay(async () => {
      const edited = await work()
      own = Math.max(own, edited.version)
      await load()
      return edited
    })
  }

  async function underWay<T>(work: () => Promise<T>): Promise<T> {
    inFlight += 1
    try {
      return await work()
    } finally {
      if (inFlight === 1) await catchUp()
      inFlight -= 1
    }
  }

  /** After the last edit in progress: takes what came from elsewhere meanwhile. */
  async function catchUp(): Promise<void> {
    if (missed > version.value) await load()
    missed = 0
    if (version.value > Math.max(own, known)) outside.value += 1
    known = version.value
  }

  async function refresh(to: number): Promise<void> {
    if (inFlight > 0) missed = Math.max(missed, to)
    if (inFlight > 0) return
    const news = to !== version.value || !book.value
    const mine = to === own
    await load()
    if (news && !mine) outside.value += 1
  }

  function entry(kind: ListName, thing: string): Entry | undefined {
    return ((book.value?.[kind] ?? []) as Entry[]).find((one) => one.id === thing)
  }

  /**
   * Puts entries one after the other: changes by the one before stay, though this one was made without them. Returns what
   * was put.
   */
  function put(kind: ListName, value: Entry): Promise<Entry> {
    const base = entry(kind, value.id)
    const placed = line.then(async () => {
      const now = entry(kind, value.id)
      const mine = base && now ? merged<Entry>(base, value, now) : value
      const path = { kind, thing: value.id }
      const body = { value: mine as unknown as Record<string, never>, version: version.value || null }
      await edit(() => got(api.PUT('/api/book/{kind}/{thing}', { params: { path }, body })))
      return mine
    })
    line = placed.catch(() => {})
    return underWay(() => placed)
  }

  /** Changes fields of a single part, one edit after the other: none reverts what the one before set. */
  function putPart<P extends Part>(part: P, fields: Partial<Book[P]>): Promise<void> {
    const placed = line.then(async () => {
      const value = { ...book.value?.[part], ...fields } as unknown as Record<string, never>
      await edit(() => got(api.PUT(`/api/book/${part as Part}` as const, { body: { value, version: null } })))
    })
    line = placed.catch(() => {})
    return underWay(() => placed)
  }

  const putHouse = (fields: Partial<Book['house']>): Promise<void> => putPart('house', fields)

  async function remove(kind: ListName, thing: string): Promise<void> {
    const params = { path: { kind, thing }, query: { version: version.value } }
    await edit(() => got(api.DELETE('/api/book/{kind}/{thing}', { params })))
  }

  async function step(back: boolean): Promise<void> {
    const edited = await edit(() => got(back ? api.POST('/api/book/undo') : api.POST('/api/book/redo')))
    outside.value += 1
    say(`${back ? 'Undone' : 'Redone'}: ${edited.what}`, 'fine')
  }

  /** Adds files to the library. Returns the ids of those there now; says which were refused. */
  async function addFiles(files: File[]): Promise<string[]> {
    const answer = await edit(() => got(api.POST('/api/media', upload(files))))
    for (const refused of answer.refused) say(`${refused.name}: ${refused.what}`, 'wrong')
    return answer.media.map((entry) => entry.id)
  }

  async function newCue(mediaIds: string[], oneOfThem = false): Promise<Cue> {
    const body = { media: mediaIds, name: '', one_of_them: oneOfThem }
    const made = await edit(() => got(api.POST('/api/cues/from-media', { body })))
    return made.cue
  }

  /** Returns the name of a piece of gear, by its id. */
  const gearName = (id: string): string => book.value?.gear.find((one) => one.id === id)?.name || id

  const mediaById = computed(() => new Map(media.value.map((entry) => [entry.id, entry])))

  return {
    book,
    version,
    undoSteps,
    redoSteps,
    undoes,
    redoes,
    media,
    mediaById,
    gearName,
    outside,
    load,
    edit,
    refresh,
    put,
    putPart,
    putHouse,
    remove,
    step,
    addFiles,
    newCue,
  }
})
