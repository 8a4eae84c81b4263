/** What the simulated broadcaster shows, polled, and the streamer's changes to it by hand. */
import { useStandIn } from './useStandIn'

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

export function useBroadcaster(): Omit<ReturnType<typeof useStandIn<BroadcasterState>>, 'hand' | 'post'> & {
  hand: (path: string, value: boolean | number | string) => Promise<void>
  rename: (what: string, old: string, fresh: string, of?: string) => Promise<void>
} {
  const { post, ...there } = useStandIn<BroadcasterState>('broadcaster', 250, true)
  return {
    ...there,
    hand: (path, value) => post('hand', { path, value }),
    rename: (what, old, fresh, of = '') => post('rename', { what, old, new: fresh, of }),
  }
}
