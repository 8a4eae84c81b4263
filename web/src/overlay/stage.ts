/**
 * The overlay's stage: puts up and takes down what it is told, each from the instant at which it began.
 *
 * It draws nothing of its own. What has an end goes at its end even if nobody says so any more; what a page misses while
 * it is not connected is neither shown late nor left up.
 */
import { enter, leave } from './moves'
import type { Look, ShowMessage, Source } from './types'

export interface StageOptions {
  sound: boolean
  picture: boolean
  /** ms since 1970 by the server's clock. */
  now: () => number
}

interface Up {
  node: HTMLElement
  message: ShowMessage
  timer: number
  sound: Sound | null
  leaving: boolean
  stop: () => void
}

/** A sound or the sound of a clip: joins in the middle, loops to fill, fades, follows the volume of the others. */
class Sound {
  private readonly own: number
  private timer = 0

  constructor(
    readonly media: HTMLMediaElement,
    private readonly look: Look,
    private readonly message: ShowMessage,
    private readonly source: Source,
    private readonly now: () => number,
    private others: number,
  ) {
    this.own = (look.volume ?? 100) / 100
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
    const end = this.source.to_s
    if (end !== null && this.media.currentTime >= end) {
      this.media.currentTime = this.source.from_s
    }
  }

  stop(): void {
    window.clearInterval(this.timer)
    this.media.pause()
    this.media.removeAttribute('src')
    this.media.load()
  }
}

export class OverlayStage {
  private readonly up = new Map<string, Up>()
  private others = 1

  constructor(
    private readonly root: HTMLElement,
    private readonly options: StageOptions,
  ) {
    root.style.position ||= 'relative'
    root.style.overflow = 'hidden'
    root.style.containerType = 'size'
  }

  get count(): number {
    return this.up.size
  }

  setOthers(value: number): void {
    this.others = value
    for (const entry of this.up.values()) entry.sound?.setOthers(value)
  }

  /** What is up becomes exactly this. */
  whole(messages: ShowMessage[]): void {
    const wanted = new Set(messages.map(keyOf))
    for (const key of [...this.up.keys()]) if (!wanted.has(key)) this.remove(key)
    for (const message of messages) this.show(message)
  }

  show(message: ShowMessage): void {
    const key = keyOf(message)
    const there = this.up.get(key)
    if (there && !there.leaving) {
      this.setUntil(message.run, message.beat, message.until)
      return
    }
    if (message.until !== null && message.until <= this.options.now()) return
    const heard = message.kind === 'sound' || message.kind === 'speech'
    if (heard ? !this.options.sound : !this.options.picture) return
    const made = this.make(message)
    if (!made) return
    if (there) this.remove(key)
    const entry: Up = {
      node: made.node,
      message,
      timer: 0,
      sound: made.sound,
      leaving: false,
      stop: () => {},
    }
    this.up.set(key, entry)
    this.root.append(made.node)
    made.sound?.start()
    void LATER[message.kind]?.().then((play) => {
      if (this.up.get(key) === entry) entry.stop = play(made.node, message, this.options.now)
    })
    if (!heard) {
      const gone = this.options.now() - message.at
      enter(made.node, message.look.enter ?? 'fade', (message.look.fade_in_s ?? 0) * 1000, gone)
    }
    this.arm(key, entry)
  }

  private arm(key: string, entry: Up): void {
    window.clearTimeout(entry.timer)
    const { until, look } = entry.message
    if (until === null) return
    const out = entry.sound && entry.message.kind === 'sound' ? 0 : (look.fade_out_s ?? 0) * 1000
    const left = until - out - this.options.now()
    entry.timer = window.setTimeout(
      () => this.hide(entry.message.run, entry.message.beat, out),
      Math.min(Math.max(0, left), 2 ** 31 - 1),
    )
    void key
  }

  setUntil(run: string, beat: string, until: number | null): void {
    const key = `${run}/${beat}`
    const entry = this.up.get(key)
    if (!entry) return
    entry.message.until = until
    if (!entry.leaving) this.arm(key, entry)
  }

  hide(run: string, beat: string, over = 150): void {
    const key = `${run}/${beat}`
    const entry = this.up.get(key)
    if (!entry || entry.leaving) return
    entry.leaving = true
    window.clearTimeout(entry.timer)
    const gone = (): void => {
      if (this.up.get(key) === entry) this.remove(key)
    }
    if (entry.message.kind === 'sound') gone()
    else leave(entry.node, entry.message.look.leave ?? 'fade', over, gone)
  }

  private remove(key: string): void {
    const entry = this.up.get(key)
    if (!entry) return
    window.clearTimeout(entry.timer)
    entry.sound?.stop()
    entry.stop()
    entry.node.remove()
    const url = entry.node.dataset.own
    if (url) URL.revokeObjectURL(url)
    this.up.delete(key)
  }

  clear(): void {
    for (const key of [...this.up.keys()]) this.remove(key)
  }

  private make(message: ShowMessage): { node: HTMLElement; sound: Sound | null } | null {
    const source = message.media?.[0] ?? null
    const made = MAKERS[message.kind]?.(message, source)
    if (!made) return null
    const { node, media } = made
    node.dataset.run = message.run
    node.dataset.beat = message.beat
    node.dataset.kind = message.kind
    if (message.kind !== 'sound') lay(node, message.look)
    const sound =
      media && source ? new Sound(media, message.look, message, source, this.options.now, this.others) : null
    if (media && !this.options.sound) media.muted = true
    return { node, sound }
  }
}

function keyOf(message: { run: string; beat: string }): string {
  return `${message.run}/${message.beat}`
}

function lay(node: HTMLElement, look: Look): void {
  const place = look.place ?? { x: 0.3, y: 0.3, w: 0.4, h: 0.4 }
  const style = node.style
  style.position = 'absolute'
  style.left = `${place.x * 100}%`
  style.top = `${place.y * 100}%`
  style.width = `${place.w * 100}%`
  style.height = `${place.h * 100}%`
  style.zIndex = String((look.layer ?? 0) + 1)
  style.opacity = String(look.opacity ?? 1)
  if (look.flip) style.transform = 'scaleX(-1)'
  if (look.corner) {
    style.borderRadius = `${look.corner * 50}%`
    style.overflow = 'hidden'
  }
}

interface Made {
  node: HTMLElement
  media?: HTMLMediaElement
}

function picture(_: ShowMessage, source: Source | null): Made | null {
  if (!source) return null
  const node = document.createElement('img')
  node.style.objectFit = 'contain'
  node.alt = ''
  // An address of its own, so that an animation begins at its first picture however often it is up.
  void fetch(source.url)
    .then((answer) => answer.blob())
    .then((blob) => {
      node.dataset.own = URL.createObjectURL(blob)
      node.src = node.dataset.own
    })
    .catch(() => (node.src = source.url))
  return { node }
}

function clip(_: ShowMessage, source: Source | null): Made | null {
  if (!source) return null
  const node = document.createElement('video')
  node.style.objectFit = 'contain'
  node.src = source.url
  node.loop = true
  node.playsInline = true
  return { node, media: node }
}

function sound(_: ShowMessage, source: Source | null): Made | null {
  if (!source) return null
  const node = document.createElement('audio')
  node.src = source.url
  node.preload = 'auto'
  node.loop = true
  return { node, media: node }
}

function caption(message: ShowMessage): Made {
  const look = message.look
  const node = document.createElement('div')
  const plate = document.createElement('span')
  plate.textContent = String(message.value ?? '')
  const side = look.align === 'left' ? 'flex-start' : look.align === 'right' ? 'flex-end' : 'center'
  Object.assign(node.style, {
    display: 'flex',
    alignItems: 'center',
    justifyContent: side,
    overflow: 'hidden',
  })
  Object.assign(plate.style, {
    font: `650 ${(look.size ?? 0.06) * 100}cqh/1.2 ${look.face === 'text' ? '"Atkinson Hyperlegible"' : '"Bricolage Grotesque Variable"'}, sans-serif`,
    color: look.colour ?? '#f4eedd',
    padding: '0.25em 0.6em',
    textAlign: look.align === 'centre' ? 'center' : (look.align ?? 'center'),
    overflowWrap: 'anywhere',
    maxHeight: '100%',
    overflow: 'hidden',
    whiteSpace: 'pre-line',
  })
  if (look.plate) plate.style.background = look.plate
  node.append(plate)
  return { node }
}

/** A frame whose inside is drawn by a part that is loaded only when it is needed. */
function frame(): Made {
  const node = document.createElement('div')
  node.style.containerType = 'size'
  return { node }
}

type Player = (node: HTMLElement, message: ShowMessage, now: () => number) => () => void
const LATER: Record<string, () => Promise<Player>> = {
  burst: () => import('./burst').then((part) => part.playBurst),
  chance: () => import('./chance').then((part) => part.playChance),
}

const MAKERS: Record<string, (message: ShowMessage, source: Source | null) => Made | null> = {
  picture,
  clip,
  sound,
  caption,
  burst: frame,
  chance: frame,
}
