/** What the checks find in the book, fetched with every version of it; by cue, without hidden ones. */
import { computed, shallowRef, watch, type ComputedRef, type ShallowRef } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from './useBook'

export type Snag = Schemas['SnagOut']

export function useSnags(): {
  snags: ShallowRef<Snag[]>
  known: ShallowRef<boolean>
  ofCue: ComputedRef<Map<string, Snag[]>>
} {
  const book = useBook()
  const snags = shallowRef<Snag[]>([])
  const known = shallowRef(false)
  watch(
    () => book.version,
    async () => {
      snags.value = await got(api.GET('/api/snags')).catch(() => [])
      known.value = true
    },
    { immediate: true },
  )
  const ofCue = computed(() => {
    const by = new Map<string, Snag[]>()
    for (const snag of snags.value)
      if (snag.hidden === null) by.set(snag.cue, [...(by.get(snag.cue) ?? []), snag])
    return by
  })
  return { snags, known, ofCue }
}
