/** Who won what. Looks again when a call of tonight has a winner. */
import { computed, ref, watch, type Ref } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useLive } from './useLive'

type Winner = Schemas['WinnerOut']

export interface Winners {
  rows: Ref<Winner[]>
  /** How many still wait for what they won, and how many there are. */
  waiting: Ref<number>
  total: Ref<number>
  more: () => Promise<void>
  give: (winner: Winner, given: boolean) => Promise<void>
  remove: (winner: Winner) => Promise<void>
}

/** Loads the first `page` winners, those who wait first. */
export function useWinners(page: number): Winners {
  const live = useLive()
  const rows = ref<Winner[]>([])
  const waiting = ref(0)
  const total = ref(0)
  /** The latest call that had a winner. */
  const latest = computed(
    () => live.lines.find((line) => line.notes.some((note) => note.what === 'won'))?.id ?? 0,
  )

  async function load(limit: number): Promise<void> {
    const answer = await got(api.GET('/api/winners', { params: { query: { limit, skip: 0 } } }))
    rows.value = answer.winners
    waiting.value = answer.waiting
    total.value = answer.total
  }
  const again = (): Promise<void> => load(Math.max(page, rows.value.length))
  const at = ({ run, beat }: Winner) => ({ path: { run, beat } })

  watch(latest, () => void again().catch(() => {}), { immediate: true })
  return {
    rows,
    waiting,
    total,
    more: () => load(rows.value.length + page),
    give: async (winner, given) => {
      await got(api.PUT('/api/winners/{run}/{beat}', { params: at(winner), body: { given } }))
      await again()
    },
    remove: async (winner) => {
      await got(api.DELETE('/api/winners/{run}/{beat}', { params: at(winner) }))
      await again()
    },
  }
}
