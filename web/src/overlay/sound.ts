/** Sound on the overlay: joins in the middle, loops to fill, fades, levelled, softer while another sound ducks it. */
import type { Look, ShowMessage, Source } from './types'

let context: AudioContext | null = null
const gains = new WeakMap<HTMLMediaElement, GainNode>()
const spare: Record<'audio' | 'video', HTMLMediaElement[]> = { audio: [], video: [] }
const MOST_SPARE = 24

/**
 * An element's volume ends at 1; louder levelled sounds go through an amplifier, if one can run.
 * A browser never frees an element that once had one, so elements are reused.
 */
function amplifier(media: HTMLMediaElement): GainNode | null {
  context ??= new AudioContext()
  if (context.state !== 'running') void context.resume()
  const known = gains.get(media)
  if (known || context.state !== 'running') return known ?? null
  const gain = context.createGain()
  context.createMediaElementSource(media).connect(gain).connect(context.destination)
  gains.set(media, gain)
  return gain
}

export function takePlayer(kind: 'audio' | 'video'): HTMLMediaElement {
  return spare[kind].pop() ?? document.createElement(kind)
}

function giveBack(media: HTMLMediaElement): void {
  media.pause()
  media.removeAttribute('src')
  media.load()
  const gain = gains.get(media)
  if (gain) gain.gain.value = 1
  for (const name of [...media.getAttributeNames()]) media.removeAttribute(name)
  media.muted = false
  const kind = media.tagName === 'AUDIO' ? 'audio' : 'video'
  if (spare[kind].length < MOST_SPARE) spare[kind].push(media)
}

/** A sound or the sound of a clip: joins in the middle, loops to fill, fades, follows the volume of the others. */
export class Sound {
  private readonly own: number
  private readonly timer: number
  private stopped = false
  private louder: GainNode | null = null

  constructor(
    readonly media: HTMLMediaElement,
    private readonly look: Look,
    private readonly message: ShowMessage,
    private readonly source: Source,
    private readonly now: () => number,
    private others: number,
  ) {
    this.own = ((look.volume ?? 100) / 100) * 10 ** (source.gain_db / 20)
    if (this.own > 1) this.louder = amplifier(media)
    this.follow()
    this.timer = window.setInterval(() => this.follow(), 40)
  }

  private span(): number {
    return Math.max(0.02, (this.source.to_s ?? this.source.length_s) - this.source.from_s)
  }

  start(): void {
    const gone = Math.max(0, (this.now() - this.message.at) / 1000)
    const span = this.span()
    const seek = (): void => {
      if (this.stopped) return
      if (gone > 0.08 || this.source.from_s > 0) this.media.currentTime = this.source.from_s + (gone % span)
      void this.media.play().catch(() => (this.media.dataset.blocked = 'yes'))
    }
    if (this.media.readyState >= 1) seek()
    else this.media.addEventListener('loadedmetadata', seek, { once: true })
  }

  setOthers(value: number): void {
    this.others = value
    this.follow()
  }

  private follow(): void {
    const now = this.now()
    const { at, until } = this.message
    const rise = (this.look.fade_in_s ?? 0) * 1000
    const fall = (this.look.fade_out_s ?? 0) * 1000
    let part = rise > 0 && this.media.tagName === 'AUDIO' ? Math.min(1, (now - at) / rise) : 1
    if (until !== null && fall > 0 && this.media.tagName === 'AUDIO')
      part = Math.min(part, (until - now) / fall)
    const ducks = (this.look.duck ?? 1) !== 1
    const level = this.own * Math.max(0, part) * (ducks ? 1 : this.others)
    this.media.volume = Math.min(1, Math.max(0, level))
    if (this.louder) this.louder.gain.value = Math.max(1, level)
    const end = this.source.to_s
    if (end !== null && this.media.currentTime >= end) {
      this.media.currentTime = this.source.from_s
    }
  }

  stop(): void {
    this.stopped = true
    window.clearInterval(this.timer)
    giveBack(this.media)
  }
}
