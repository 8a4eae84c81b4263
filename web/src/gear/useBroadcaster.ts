/** What the simulated broadcaster shows, polled, and the streamer's changes to it by hand. */
import { onUnmounted, ref, type Ref } from 'vue'

export interface SettingState {
  type: 'bool' | 'number' | 'colour' | 'text' | 'choice'
  min?: number
  max?: number
  choices?: string[]
  value: boolean | number | string
}

export interface BroadcasterState {
  scene: string
  serial: number
  values: Record<string, boolean | number | string>
  scenes: { id: string; name: string; sources: string[] }[]
  sources: { id: string; name: string; scene: string }[]
  filters: { id: string; name: string; source: string; settings: Record<string, SettingState> }[]
  inputs: { id: string; name: string; volume: { value: number }; muted: { value: boolean } }[]
}

const LOOK_MS = 250

export function useBroadcaster(): {
  state: Ref<BroadcasterState | null>
  problem: Ref<string>
  hand: (path: string, value: boolean | number | string) => Promise<void>
  rename: (what: string, old: string, fresh: string, of?: string) => Promise<void>
} {
  const state = ref<BroadcasterState | null>(null)
  const problem = ref('')

  async function look(): Promise<void> {
    try {
      const answer = await fetch('/broadcaster/state')
      const next = (await answer.json()) as BroadcasterState
      if (next.serial !== state.value?.serial || problem.value) state.value = next
      problem.value = ''
    } catch {
      problem.value = 'The stand-ins aren’t answering.'
    }
  }

  async function post(path: string, body: unknown): Promise<void> {
    const answer = await fetch(`/broadcaster/${path}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
    })
    if (!answer.ok) problem.value = ((await answer.json()) as { what: string }).what
    else await look()
  }

  const timer = window.setInterval(() => void look(), LOOK_MS)
  onUnmounted(() => window.clearInterval(timer))
  void look()

  return {
    state,
    problem,
    hand: (path, value) => post('hand', { path, value }),
    rename: (what, old, fresh, of = '') => post('rename', { what, old, new: fresh, of }),
  }
}
