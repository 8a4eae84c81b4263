/** A MIDI keyboard or pad box on this device: its keys are learned by pressing them, and saved in this browser. */
import { useLocalStorage } from '@vueuse/core'
import { onScopeDispose, ref, type Ref } from 'vue'

export type Does = { pad: string } | { rest: true } | { volume: true }
export interface Heard {
  /** Identifies this key or knob. */
  key: string
  down: boolean
  /** 0 to 1. */
  value: number
}

/** Reads a message: a key that goes down or up, or a knob; null for anything else (clock, sensing). */
export function readMidi(data: ArrayLike<number>): Heard | null {
  const [status = 0, number = 0, value = 0] = Array.from(data)
  const kind = status & 0xf0
  if (kind === 0x90 || kind === 0x80)
    return {
      key: `note ${number}, channel ${(status & 0xf) + 1}`,
      down: kind === 0x90 && value > 0,
      value: value / 127,
    }
  if (kind === 0xb0)
    return { key: `control ${number}, channel ${(status & 0xf) + 1}`, down: value > 0, value: value / 127 }
  return null
}

export interface Midi {
  can: boolean
  on: Ref<boolean>
  problem: Ref<string>
  names: Ref<string[]>
  /** Waits for the next key, to assign this to it. */
  learning: Ref<Does | null>
  learned: Ref<Record<string, Does>>
  begin: () => Promise<void>
  forget: (key: string) => void
}

export function useMidi(act: (does: Does, heard: Heard) => void): Midi {
  const learned = useLocalStorage<Record<string, Does>>('pads-midi', {})
  const wanted = useLocalStorage('pads-midi-on', false)
  const on = ref(false)
  const problem = ref('')
  const names = ref<string[]>([])
  const learning = ref<Does | null>(null)
  const can = 'requestMIDIAccess' in navigator
  let access: MIDIAccess | null = null

  function hear(event: MIDIMessageEvent): void {
    const heard = event.data ? readMidi(event.data) : null
    if (!heard) return
    if (learning.value && heard.down) {
      learned.value = { ...learned.value, [heard.key]: learning.value }
      learning.value = null
      return
    }
    const does = learned.value[heard.key]
    if (does) act(does, heard)
  }

  function look(): void {
    const there = [...(access?.inputs.values() ?? [])].filter((input) => input.state === 'connected')
    for (const input of there) input.onmidimessage = hear
    const now = there.map((input) => input.name ?? 'a MIDI device')
    const gone = names.value.filter((name) => !now.includes(name))
    names.value = now
    if (gone.length) problem.value = `${gone.join(', ')} is gone.`
    else if (now.length) problem.value = ''
    else problem.value = 'No MIDI device connected.'
  }

  async function begin(): Promise<void> {
    try {
      access = await navigator.requestMIDIAccess()
    } catch {
      problem.value = 'The browser doesn’t let this page use MIDI.'
      return
    }
    on.value = wanted.value = true
    access.onstatechange = look
    look()
  }

  function forget(key: string): void {
    learned.value = Object.fromEntries(Object.entries(learned.value).filter(([name]) => name !== key))
  }

  if (can && wanted.value) void begin()
  onScopeDispose(() => {
    if (access) access.onstatechange = null
  })
  return { can, on, problem, names, learning, learned, begin, forget }
}
