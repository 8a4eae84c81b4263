/** A server for tests: a book in memory, edits with versions like the real one's, and the requests it got. */
import type { Book, Cue } from '@/api/client'

type Ask = (path: string, init?: { params?: Asked['params']; body?: unknown }) => Promise<unknown>
interface Asked {
  method: string
  path: string
  params?: { path?: Record<string, string>; query?: Record<string, unknown> }
  body?: unknown
}

export class FakeServer {
  book = { cues: [] as Cue[], media: [], jars: [], house: { most_text: 500 } } as unknown as Book
  version = 1
  asked: Asked[] = []
  /** The refusal for the next edit. */
  refuses: { status: number; what: string } | null = null
  /** Edits wait for this. */
  busy: Promise<void> = Promise.resolve()
  measured: Record<string, unknown>[] = []

  readonly api = {
    GET: this.ask('GET'),
    POST: this.ask('POST'),
    PUT: this.ask('PUT'),
    DELETE: this.ask('DELETE'),
  }

  edits(): Asked[] {
    return this.asked.filter((one) => one.method === 'PUT')
  }

  private ask(method: string): Ask {
    return async (path, init = {}) => {
      this.asked.push({ method, path, params: init.params, body: init.body })
      if (path === '/api/building/measure') {
        this.measured.push((init.body as { value: Record<string, unknown> }).value)
        return fine({
          spans: [{ beat: 'words', begin: [0, 0], end: [2000, 2000] }],
          snags: [],
          told: { calls: [] },
        })
      }
      if (method === 'GET') return fine(path === '/api/media' ? [] : this.since())
      await this.busy
      if (this.refuses) {
        const { status, what } = this.refuses
        this.refuses = null
        return { error: { what, do: '', problems: [] }, response: { ok: false, status } }
      }
      this.version += 1
      if (path === '/api/book/house')
        this.book = { ...this.book, house: (init.body as { value: Book['house'] }).value }
      const { kind, thing } = init.params?.path ?? {}
      if (kind === 'cues') {
        const others = this.book.cues.filter((cue) => cue.id !== thing)
        const value = (init.body as { value?: Cue } | undefined)?.value
        this.book = { ...this.book, cues: method === 'DELETE' || !value ? others : [...others, value] }
      }
      return fine({ version: this.version, what: 'Steam whistle' })
    }
  }

  private since(): unknown {
    const media = { mark: 'none', rows: [], order: [] }
    return JSON.parse(JSON.stringify({ book: this.book, version: this.version, undo: 1, redo: 0, media }))
  }
}

function fine(data: unknown): unknown {
  return { data, response: { ok: true, status: 200 } }
}
