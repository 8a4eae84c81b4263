/** The one way to the server: typed by its OpenAPI, errors in one shape. */
import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Book = Schemas['Book']
export type Cue = Schemas['Cue']
export type Beat = Cue['beats'][number]
export type Call = Cue['calls'][number]
export type Media = Schemas['MediaOut']
export type LedgerLine = Schemas['LedgerLine']
export type DeskMessage = Schemas['DeskMessage']
export type OverlayMessage = Schemas['OverlayMessage']
export type ShowMessage = Schemas['ShowTold']

type KeysOf<U> = U extends unknown ? keyof U : never
type FieldOf<U, K extends PropertyKey> = U extends unknown ? (K extends keyof U ? U[K] : never) : never

/** All fields of all kinds of beat; one beat has those of its kind. */
export type BeatFields = { [K in KeysOf<Beat>]?: FieldOf<Beat, K> }
/** A beat of whatever kind, asked for the fields of any. A field that no kind has does not get past the type checker. */
export type AnyBeat = Beat & BeatFields

export type Refusal = Schemas['Refusal']

export const api = createClient<paths>({ baseUrl: '' })

let token: Promise<string> | undefined

/** What a change carries, so that no page of others can ask for one; read once. */
async function tokenRead(): Promise<string> {
  try {
    const answer = await api.GET('/api/token')
    if (answer.data) return answer.data.token
  } catch {
    // The change itself says that nobody answers.
  }
  token = undefined
  return ''
}

api.use({
  async onRequest({ request }) {
    if (request.method === 'GET') return undefined
    token ??= tokenRead()
    request.headers.set('x-cue-jar-token', await token)
    return request
  },
})

/** What a call needs besides its address to upload files: spread into its options. */
export function upload(files: File | File[]): { body: never; bodySerializer: (body: unknown) => FormData } {
  const form = new FormData()
  if (Array.isArray(files)) for (const file of files) form.append('files', file)
  else form.append('file', files)
  return { body: form as never, bodySerializer: (body) => body as FormData }
}

/** An answer that says no: what is wrong, and what to do. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly refusal: Refusal,
  ) {
    super(refusal.what)
  }

  get todo(): string {
    return this.refusal.do ?? ''
  }
}

interface Answer<T> {
  data?: T
  error?: unknown
  response: Response
}

/** The data of an answer; throws `Refused` for a no and for a server that does not answer. */
export async function got<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await call
  } catch {
    throw new Refused(0, { what: 'Cue Jar isn’t answering.', do: 'Is it still running?', problems: [] })
  }
  if (!answer.response.ok) {
    const refusal = answer.error as Refusal | undefined
    throw new Refused(
      answer.response.status,
      refusal?.what
        ? refusal
        : { what: `That didn’t work (${answer.response.status}).`, do: '', problems: [] },
    )
  }
  return answer.data as T
}
