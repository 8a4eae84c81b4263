/** The simulated channel as the audience sees it. */
import { ref } from 'vue'
import { useFeed } from '@/composables/useFeed'

export interface Person {
  id: string
  name: string
  roles: string[]
  tier: number
  points: number
}
export interface ChannelReward {
  id: string
  title: string
  cost: number
  prompt: string
  text: boolean
  on: boolean
  paused: boolean
  colour?: string
  /** Addresses of its picture by their sides in pixels. */
  pictures?: Record<string, string>
}
export interface Redemption {
  id: string
  title: string
  cost: number
  text: string
  state: 'unfulfilled' | 'fulfilled' | 'refunded'
  viewer: { id: string; name: string }
}
export interface Said {
  id: string
  viewer: { name: string }
  text: string
}

async function ask<T>(path: string, body?: unknown): Promise<T> {
  const answer = await fetch(`/channel${path}`, {
    method: body === undefined ? 'GET' : 'POST',
    headers: body === undefined ? {} : { 'content-type': 'application/json' },
    body: body === undefined ? undefined : JSON.stringify(body),
  })
  const data = (answer.status === 204 ? {} : await answer.json()) as T & { what?: string }
  if (!answer.ok) throw new Error(data.what ?? `That didn’t work (${answer.status}).`)
  return data
}

export function useChannel() {
  const people = ref<Person[]>([])
  const rewards = ref<ChannelReward[]>([])
  const redemptions = ref<Redemption[]>([])
  const said = ref<Said[]>([])
  const stream = ref<{ state: string; category: string }>({ state: 'ended', category: '' })
  const problem = ref('')

  async function load(): Promise<void> {
    ;[people.value, rewards.value, redemptions.value, said.value, stream.value] = await Promise.all([
      ask<Person[]>('/viewers'),
      ask<ChannelReward[]>('/rewards'),
      ask<Redemption[]>('/redemptions'),
      ask<Said[]>('/chat'),
      ask<{ state: string; category: string }>('/stream'),
    ])
  }

  /** Does something there; `look`: refreshes afterwards. */
  async function act(path: string, body: unknown, look = true): Promise<void> {
    try {
      problem.value = ''
      await ask(path, body)
      if (look) await load()
    } catch (error) {
      problem.value = error instanceof Error ? error.message : String(error)
    }
  }

  useFeed(
    '/channel/events',
    () => void load(),
    (is) => is && void load(),
  )
  return { people, rewards, redemptions, said, stream, problem, act }
}
