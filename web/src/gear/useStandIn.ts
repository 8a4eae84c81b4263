/** What a stand-in shows, polled, and changes to it by hand. */
import { computed, onUnmounted, ref, shallowRef, type ComputedRef, type Ref, type ShallowRef } from 'vue'

export function useStandIn<State extends { serial: number }>(
  kind: string,
  everyMs = 250,
  /** Whether nothing changes without a new serial. */
  bySerial = false,
): {
  state: ShallowRef<State | null>
  problem: ComputedRef<string>
  /** How many changes were refused: what shows one is drawn anew then. */
  refusals: Ref<number>
  hand: (body: Record<string, unknown>) => Promise<void>
  post: (path: string, body: Record<string, unknown>) => Promise<void>
} {
  const state = shallowRef(null) as ShallowRef<State | null>
  const [away, refused, refusals] = [ref(''), ref(''), ref(0)]
  /** A refusal stays until the next change is taken. */
  const problem = computed(() => away.value || refused.value)

  async function look(): Promise<void> {
    try {
      const next = (await (await fetch(`/${kind}/state`)).json()) as State
      if (!bySerial || next.serial !== state.value?.serial) state.value = next
      away.value = ''
    } catch {
      away.value = 'The stand-ins aren’t answering.'
    }
  }

  async function post(path: string, body: Record<string, unknown>): Promise<void> {
    const answer = await fetch(`/${kind}/${path}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
    })
    refused.value = answer.ok ? '' : ((await answer.json()) as { what: string }).what
    if (answer.ok) await look()
    else refusals.value += 1
  }

  const timer = window.setInterval(() => void look(), everyMs)
  onUnmounted(() => window.clearInterval(timer))
  void look()
  return { state, problem, refusals, hand: (body) => post('hand', body), post }
}

export interface PanelState {
  serial: number
  names: Record<string, string[]>
  values: Record<string, string | number>
}
