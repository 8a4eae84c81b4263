/** What is heard of the streamer's phrases, asked for while a page shows it. */
import { useIntervalFn } from '@vueuse/core'
import { shallowRef } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { attempt } from './useSay'

const OFTEN_MS = 250

export function useVoice() {
  const voice = shallowRef<Schemas['HeardOut'] | null>(null)
  const load = async (): Promise<void> => {
    voice.value = await got(api.GET('/api/voice'))
  }
  useIntervalFn(() => void attempt(load), OFTEN_MS, { immediateCallback: true })

  return {
    voice,
    train: async (phrase: string): Promise<void> => {
      voice.value = await got(api.POST('/api/voice/training', { body: { phrase } }))
    },
    step: async (step: 'say' | 'talk' | 'find'): Promise<void> => {
      voice.value = await got(api.POST('/api/voice/training/step', { body: { step, talk_s: 60 } }))
    },
    end: async (): Promise<void> => {
      voice.value = await got(api.DELETE('/api/voice/training'))
    },
    forget: async (phrase: string): Promise<void> => {
      voice.value = await got(api.POST('/api/voice/forget', { body: { phrase } }))
    },
    look: async (): Promise<void> => {
      voice.value = await got(api.POST('/api/voice/microphones'))
    },
  }
}
