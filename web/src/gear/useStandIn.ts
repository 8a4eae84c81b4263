/** What a stand-in shows, polled, and changes to it by hand. */
import { onUnmounted, shallowRef, ref, type Ref, type ShallowRef } from 'vue'

export function useStandIn<State extends { serial: number }>(
  kind: string,
  everyMs = 250,
): {
  state: ShallowRef<State | null>
  problem: Ref<string>
  hand: (body: Record<string, unknown>) => Promise<void>
} {
  const state = shallowRef(null) as ShallowRef<State | null>
  const problem = ref('')

  async function look(): Promise<void> {
    try {
      state.value = (await (await fetch(`/${kind}/state`)).json()) as State
      problem.value = ''
    } catch {
      problem.value = 'The stand-ins aren’t answering.'
    }
  }

  async function hand(body: Record<string, unknown>): Promise<void> {
    const answer = await fetch(`/${kind}/hand`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
    })
    if (!answer.ok) problem.value = ((await answer.json()) as { what: string }).what
    else await look()
  }

  const timer = window.setInterval(() => void look(), everyMs)
  onUnmounted(() => window.clearInterval(timer))
  void look()
  return { state, problem, hand }
}

export interface PanelState {
  serial: number
  names: Record<string, string[]>
  values: Record<string, string | number>
}
