/** The review of an import: what is selected, allowed and renamed, and the result. */
import { computed, ref, shallowRef } from 'vue'
import { api, got, upload, type Schemas } from '@/api/client'
import { attempt } from './useSay'

export type Review = Schemas['ReviewOut']
export type EntryRow = Schemas['EntryRow']
type Data = Schemas['DataOut']
type Choices = Schemas['ChoicesIn']

export function useReview(ask: (choices: Choices) => Promise<Review>) {
  const review = shallowRef<Review | null>(null)
  const choices = ref<Choices>({ take: null, beside: null, allowed: [], names: {}, data: null })
  const busy = ref(false)
  let asked = 0

  /** Asks for the result; an answer overtaken by a later one isn't shown. */
  async function look(): Promise<void> {
    const mine = (asked += 1)
    busy.value = true
    try {
      const answer = await ask(choices.value)
      if (mine === asked) review.value = answer
    } finally {
      if (mine === asked) busy.value = false
    }
  }

  const change = (change: Partial<Choices>): void => {
    choices.value = { ...choices.value, ...change }
    void attempt(look)
  }
  const ticked = (): string[] =>
    (review.value?.rows ?? []).filter((row) => row.takes && !row.needed_by).map((row) => row.key)

  function tick(keys: string[], on: boolean): void {
    const others = ticked().filter((key) => !keys.includes(key))
    change({ take: on ? [...others, ...keys] : others })
  }

  function aside(key: string, beside: boolean): void {
    const now = (review.value?.rows ?? [])
      .filter((row) => row.beside && row.key !== key)
      .map((row) => row.key)
    change({ beside: beside ? [...now, key] : now })
  }

  function allow(keys: string[], on: boolean): void {
    const others = (choices.value.allowed ?? []).filter((key) => !keys.includes(key))
    change({ allowed: on ? [...others, ...keys] : others })
  }

  /** Selects a part beside the book, or not. */
  function takePart(part: string, on: boolean): void {
    const all = (review.value?.data ?? []) as Data[]
    const data = all.filter((one) => (one.part === part ? on : one.takes)).map((one) => one.part)
    change({ data })
  }

  const call = (key: string, to: string): void => change({ names: { ...choices.value.names, [key]: to } })
  const takes = computed(() => (review.value?.rows ?? []).filter((row) => row.takes).length)
  const parts = computed(() => ((review.value?.data ?? []) as Data[]).filter((one) => one.takes).length)

  function begin(): void {
    choices.value = { take: null, beside: null, allowed: [], names: {}, data: null }
    review.value = null
    void attempt(look)
  }
  return { review, choices, busy, takes, parts, begin, look, tick, aside, allow, call, takePart }
}

const ENDINGS = /\.(zip|json)$/i
export const isBundle = (file: File): boolean => ENDINGS.test(file.name)

/** Uploads a file for review. Returns the address of its review. */
export async function bringIn(file: File): Promise<string> {
  const review = await got(api.POST('/api/carry/in', upload(file)))
  return `/books/in/${review.key}`
}
