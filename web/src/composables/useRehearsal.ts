/** A rehearsal, in progress or done: started here, with progress and a stop; and its nights. */
import { computed, onScopeDispose, ref, shallowRef } from 'vue'
import { api, got, Refused, type Schemas } from '@/api/client'
import type { Timeline } from '@/logic/nights'
import { attempt } from './useSay'

export type Rehearsal = Schemas['RehearsalOut']
export type RehearsalWish = Schemas['RehearsalIn']
const AGAIN_MS = 250

export function useRehearsal() {
  const rehearsal = shallowRef<Rehearsal | null>(null)
  const nights = shallowRef<Timeline[]>([])
  const asking = ref(false)
  let timer: ReturnType<typeof setTimeout> | undefined
  const busy = computed(() => asking.value || ['waiting', 'running'].includes(rehearsal.value?.state ?? ''))

  /** Its progress; each night is fetched as soon as it is done. */
  async function look(): Promise<void> {
    const mine = rehearsal.value?.id
    if (!mine) return
    const seen = await got(api.GET('/api/rehearsals/{rehearsal}', { params: { path: { rehearsal: mine } } }))
    if (rehearsal.value?.id !== mine) return
    for (let book = nights.value.length; book < seen.books.length; book += 1) {
      const params = { path: { rehearsal: mine }, query: { book } }
      const night = await got(api.GET('/api/rehearsals/{rehearsal}/timeline', { params }))
      if (rehearsal.value?.id !== mine) return
      nights.value = [...nights.value, night as Timeline]
    }
    rehearsal.value = seen
    if (['waiting', 'running'].includes(seen.state)) later()
  }

  function later(): void {
    clearTimeout(timer)
    timer = setTimeout(() => void follow(), AGAIN_MS)
  }

  async function follow(): Promise<void> {
    try {
      await look()
    } catch (error) {
      // A server that doesn't answer for a moment is asked again.
      if (error instanceof Refused && error.status === 0) later()
      else await attempt(() => Promise.reject(error as Error))
    }
  }

  /** Starts one; `keeps`: the shown night stays until the new one is done. */
  async function begin(wish: Partial<RehearsalWish>): Promise<void> {
    asking.value = true
    await attempt(async () => {
      const whole: RehearsalWish = {
        books: [{ kind: 'now' }],
        nights: 1,
        seed: 1,
        ...wish,
      } as RehearsalWish
      const begun = await got(api.POST('/api/rehearsals', { body: whole }))
      nights.value = []
      rehearsal.value = begun
      later()
    })
    asking.value = false
  }

  async function stop(): Promise<void> {
    const mine = rehearsal.value?.id
    if (!mine) return
    await attempt(async () => {
      await got(api.DELETE('/api/rehearsals/{rehearsal}', { params: { path: { rehearsal: mine } } }))
    })
  }

  onScopeDispose(() => {
    clearTimeout(timer)
    if (busy.value) void stop()
  })
  return { rehearsal, nights, busy, begin, stop }
}
