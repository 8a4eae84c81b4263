/** Hears or sees a file before it is chosen: by pointing at it for a moment, or with the key P. One at a time. */
import { onScopeDispose, ref, type Ref } from 'vue'
import type { Media } from '@/api/client'

const WAITS_MS = 350
const LOUD = 0.5

export function usePreview(): {
  playing: Ref<string>
  point: (entry: Media) => void
  toggle: (entry: Media) => void
  stop: () => void
} {
  const playing = ref('')
  let audio: HTMLAudioElement | null = null
  let timer: ReturnType<typeof setTimeout> | undefined

  function stop(): void {
    clearTimeout(timer)
    audio?.pause()
    audio = null
    playing.value = ''
  }

  function play(entry: Media): void {
    stop()
    if (!entry.url || !entry.length_s || entry.kind === 'picture') return
    const made = new Audio(entry.url)
    made.volume = Math.min(1, LOUD * 10 ** (entry.gain_db / 20))
    made.currentTime = entry.trim?.from_s ?? 0
    made.onended = stop
    audio = made
    playing.value = entry.id
    // A browser that requires a press first stays silent; pointing isn't one.
    made.play().catch(stop)
  }

  function point(entry: Media): void {
    clearTimeout(timer)
    if (playing.value !== entry.id) timer = setTimeout(() => play(entry), WAITS_MS)
  }

  function toggle(entry: Media): void {
    if (playing.value === entry.id) stop()
    else play(entry)
  }

  onScopeDispose(stop)
  return { playing, point, toggle, stop }
}
