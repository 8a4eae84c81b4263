/** All to rest: asks nothing, ends everything, and offers for ten seconds to close the house as well. */
import { ref, type Ref } from 'vue'
import { useBook } from './useBook'
import { useLive } from './useLive'
import { attempt } from './useSay'

const OFFERED_MS = 10_000
const offers = ref(false)
let timer = 0

function withdraw(): void {
  window.clearTimeout(timer)
  offers.value = false
}

export function useRest(): {
  offers: Ref<boolean>
  rest: (close: boolean) => Promise<void>
  closeHouse: () => Promise<void>
  withdraw: () => void
} {
  const live = useLive()
  const book = useBook()

  async function closeHouse(): Promise<void> {
    withdraw()
    await attempt(() => book.putHouse({ open: false }))
  }

  async function rest(close: boolean): Promise<void> {
    withdraw()
    await attempt(live.allToRest)
    if (close) await closeHouse()
    else if (book.book?.house.open) {
      offers.value = true
      timer = window.setTimeout(withdraw, OFFERED_MS)
    }
  }

  return { offers, rest, closeHouse, withdraw }
}
