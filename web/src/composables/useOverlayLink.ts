/** The secret link of an overlay: shown only on demand, copied, renewed. */
import { ref, type Ref } from 'vue'
import { api, got } from '@/api/client'
import { say } from './useSay'

export function useOverlayLink(overlay: () => string): {
  link: Ref<string>
  show: () => Promise<void>
  copy: (begins?: string) => Promise<void>
  renew: () => Promise<void>
} {
  const link = ref('')

  /** `begins`: the address of Cue Jar, from where the link is opened. */
  async function ask(begins = location.origin): Promise<string> {
    const params = { path: { overlay_id: overlay() } }
    const answer = await got(api.POST('/api/overlays/{overlay_id}/link', { params }))
    return begins + answer.path
  }

  async function show(): Promise<void> {
    link.value = await ask()
  }

  async function copy(begins?: string): Promise<void> {
    await navigator.clipboard.writeText(await ask(begins))
    say('The link is on the clipboard. Paste it as a browser source.', 'fine')
  }

  async function renew(): Promise<void> {
    await got(api.POST('/api/overlays/{overlay_id}/renew', { params: { path: { overlay_id: overlay() } } }))
    link.value = ''
    say('The link is new; the old one leads nowhere now.', 'fine')
  }

  return { link, show, copy, renew }
}
