/** A link or code for pairing one device: valid once, for two minutes; whether it was used is asked until then. */
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, shallowRef } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { attempt } from './useSay'

export function usePairing(used: (device: string) => unknown = () => undefined) {
  const offer = shallowRef<Schemas['OfferOut'] | null>(null)
  const state = ref('')
  const device = ref('')
  const now = ref(Date.now())
  const left = computed(() => (offer.value ? Math.max(0, offer.value.ends - now.value) : 0))

  async function make(body: Schemas['OfferIn']): Promise<void> {
    offer.value = await got(api.POST('/api/pads/offers', { body }))
    state.value = 'waits'
  }

  async function look(): Promise<void> {
    now.value = Date.now()
    if (!offer.value || state.value !== 'waits') return
    const path = { offer_id: offer.value.id }
    const told = await got(api.GET('/api/pads/offers/{offer_id}', { params: { path } }))
    state.value = told.state
    device.value = told.device
    if (told.state === 'paired') await used(told.device)
  }

  async function withdraw(): Promise<void> {
    if (!offer.value || state.value !== 'waits') return
    const path = { offer_id: offer.value.id }
    state.value = ''
    await got(api.DELETE('/api/pads/offers/{offer_id}', { params: { path } }))
  }

  useIntervalFn(() => void attempt(look), 700)
  return { offer, state, device, left, make, withdraw }
}
