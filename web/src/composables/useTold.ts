/** What every cue does, in words; asked again with every version of the book, once for all who show it. */
import { defineStore } from 'pinia'
import { computed, shallowRef, watch } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from './useBook'

export const useTold = defineStore('told', () => {
  const book = useBook()
  const rows = shallowRef<{ id: string; does: string }[]>([])
  watch(
    () => book.version,
    async () => (rows.value = await got(api.GET('/api/cues/told')).catch(() => [])),
    { immediate: true },
  )
  const byCue = computed(() => new Map(rows.value.map((row) => [row.id, row.does])))
  const of = (cue: string): string => byCue.value.get(cue) ?? ''
  return { of }
})
