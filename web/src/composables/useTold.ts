/** Every cue in one line; fetched with every version of the book, once for all who show it. Without an answer the last lines stay. */
import { defineStore } from 'pinia'
import { computed, shallowRef, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from './useBook'

export const useTold = defineStore('told', () => {
  const book = useBook()
  const rows = shallowRef<Schemas['CueLine'][]>([])
  watch(
    () => book.version,
    async () => (rows.value = await got(api.GET('/api/cues/told')).catch(() => rows.value)),
    { immediate: true },
  )
  const byCue = computed(() => new Map(rows.value.map((row) => [row.id, row])))
  const cue = (id: string): Schemas['CueLine'] | null => byCue.value.get(id) ?? null
  /** What a cue does. */
  const of = (id: string): string => cue(id)?.does ?? ''
  return { cue, of }
})
