/** The only access to the server: typed by its OpenAPI, errors in one shape. */
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
/** A beat of any kind, with the fields of all. The type checker refuses a field that no kind has. */
export type AnyBeat = Beat & BeatFields

export type Refusal = Schemas['Refusal']

export const api = createClient<paths>({ baseUrl: '' })

let token: Promise<string> | undefined

/** The token of every change, so that no foreign page can make one; read once. */
async function tokenRead(): Promise<string> {
  try {
    const answer = await api.GET('/api/token')
    if (answer.data) return answer.data.token
  } catch {
    // The change itself reports that there is no answer.
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

/** What a call that uploads files needs besides its address: spread into its options. */
export function upload(files: File | File[]): { body: never; bodySerializer: (body: unknown) => FormData } {
  const form = new FormData()
  if (Array.isArray(files)) for (const file of files) form.append('files', file)
  else form.append('file', files)
  return { body: form as never, bodySerializer: (body) => body as FormData }
}

/** A refusal: what is wrong, and what to do. */
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

/** Returns the data of an answer; throws `Refused` for a refusal and for a server that doesn't answer. */
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
