/** The state of every reward, fetched when the book, the night or the channel may have changed it; and changes to them. */
import { useDebounceFn, useIntervalFn } from '@vueuse/core'
import { computed, shallowRef, watch, type ComputedRef, type ShallowRef } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import type { Row } from '@/logic/tickets'
import { useBook } from './useBook'
import { useLive } from './useLive'

const EVERY_MS = 5_000

export function useTickets(): {
  told: ShallowRef<Schemas['TicketsOut'] | null>
  rows: ComputedRef<Row[]>
  load: () => Promise<void>
  change: (rewards: string[], change: Partial<Schemas['Change']>) => Promise<void>
  order: (ids: string[]) => Promise<void>
  remove: (rewards: string[]) => Promise<void>
} {
  const book = useBook()
  const live = useLive()
  const told = shallowRef<Schemas['TicketsOut'] | null>(null)

  async function load(): Promise<void> {
    told.value = await got(api.GET('/api/rewards/tickets')).catch(() => told.value)
  }
  const soon = useDebounceFn(load, 250)
  void load()
  watch(
    () => [
      book.version,
      live.lines,
      live.state?.held,
      live.state?.on_air,
      live.state?.category,
      live.state?.gear,
    ],
    () => void soon(),
  )
  // Pages aren't told what the channel does by itself.
  useIntervalFn(load, EVERY_MS)

  const rows = computed<Row[]>(() => {
    const rewards = new Map((book.book?.rewards ?? []).map((reward) => [reward.id, reward]))
    return (told.value?.tickets ?? []).flatMap((ticket) => {
      const reward = rewards.get(ticket.id)
      return reward ? [{ ticket, reward }] : []
    })
  })

  async function after(work: () => Promise<Schemas['Edited']>): Promise<void> {
    await book.edit(work)
    await load()
  }
  const change = (rewards: string[], to: Partial<Schemas['Change']>): Promise<void> =>
    after(() => got(api.POST('/api/rewards/change', { body: { rewards, change: to as Schemas['Change'] } })))
  const order = (ids: string[]): Promise<void> =>
    after(() => got(api.POST('/api/rewards/order', { body: { order: ids } })))
  const remove = (rewards: string[]): Promise<void> =>
    after(() => got(api.POST('/api/rewards/remove', { body: { rewards } })))

  return { told, rows, load, change, order, remove }
}
