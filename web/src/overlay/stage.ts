/**
 * The overlay's stage: shows and hides what it is told, each counted from the instant at which it began.
 *
 * It draws nothing of its own. Anything with an end goes at its end even without a message; what a page misses while
 * it is disconnected is neither shown late nor left up.
 */
import { enter, leave } from './moves'
import { Sound, takePlayer } from './sound'
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

export class OverlayStage {
  private readonly up = new Map<string, Up>()
  private others = 1
  private readonly may: { sound: boolean; picture: boolean }

  constructor(
    private readonly root: HTMLElement,
    private readonly options: StageOptions,
  ) {
    this.may = { sound: options.sound, picture: options.picture }
    root.style.position ||= 'relative'
    root.style.overflow = 'hidden'
    root.style.containerType = 'size'
  }

  get count(): number {
    return this.up.size
  }

  /** Switches pictures or sound on or off while things are up; never more than this stage was made for. */
  setOutputs(wantsSound: boolean, wantsPicture: boolean): void {
    const sound = (this.options.sound = wantsSound && this.may.sound)
    const picture = (this.options.picture = wantsPicture && this.may.picture)
    for (const [key, entry] of [...this.up]) {
      const heard = isHeard(entry.message.kind)
      const gone = entry.message.kind === 'speech' ? !sound && !picture : heard ? !sound : !picture
      if (gone) this.remove(key)
      else if (entry.sound) entry.sound.media.muted = !sound
    }
  }

  setOthers(value: number): void {
    this.others = value
    for (const entry of this.up.values()) entry.sound?.setOthers(value)
  }

  /** Whether the browser refuses to play a sound that is up. */
  get blocked(): boolean {
    return [...this.up.values()].some((entry) => entry.sound?.media.dataset.blocked === 'yes')
  }

  /** Makes exactly this the current content. */
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
      learn(there.message, message)
      return
    }
    if (message.until !== null && message.until <= this.options.now()) return
    const heard = isHeard(message.kind)
    const { sound: hears, picture: sees } = this.options
    if (message.kind === 'speech' ? !hears && !sees : heard ? !hears : !sees) return
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
    const out = entry.sound && isHeard(entry.message.kind) ? 0 : (look.fade_out_s ?? 0) * 1000
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
    if (isHeard(entry.message.kind)) gone()
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
    if (message.kind === 'speech' || message.kind === 'throw') lie(node, message.look.layer ?? 0)
    else if (message.kind !== 'sound') lay(node, message.look)
    const sound =
      media && source ? new Sound(media, message.look, message, source, this.options.now, this.others) : null
    if (media && !this.options.sound) media.muted = true
    return { node, sound }
  }
}

function isHeard(kind: string): boolean {
  return kind === 'sound' || kind === 'speech'
}

/** Takes the rest of a speech that was already playing. */
function learn(known: ShowMessage, message: ShowMessage): void {
  known.speech = message.speech
  known.value = message.value
  const [source, whole] = [known.media?.[0], message.media?.[0]]
  if (source && whole) source.length_s = whole.length_s
}

function keyOf(message: { run: string; beat: string }): string {
  return `${message.run}/${message.beat}`
}

/** Over the whole overlay. */
function lie(node: HTMLElement, layer: number): void {
  Object.assign(node.style, { position: 'absolute', inset: '0', zIndex: String(layer + 1) })
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
  // A viewer's picture is square; it fills its place, so that rounded corners are whole.
  node.style.objectFit = source.url.startsWith('/faces/') ? 'cover' : 'contain'
  node.alt = ''
  // An address of its own, so that an animation always starts at its first picture.
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
  const node = takePlayer('video') as HTMLVideoElement
  node.style.objectFit = 'contain'
  node.src = source.url
  node.loop = true
  node.playsInline = true
  return { node, media: node }
}

function sound(_: ShowMessage, source: Source | null): Made | null {
  if (!source) return null
  const node = takePlayer('audio')
  node.src = source.url
  node.preload = 'auto'
  node.loop = true
  return { node, media: node }
}

/** Its sound, and a place for its words and its mouth. */
function speech(_: ShowMessage, source: Source | null): Made | null {
  if (!source) return null
  const node = document.createElement('div')
  const media = takePlayer('audio')
  media.src = source.url
  media.preload = 'auto'
  node.append(media)
  return { node, media }
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

/** A frame whose content is drawn by a module that is loaded only when needed. */
function frame(): Made {
  const node = document.createElement('div')
  node.style.containerType = 'size'
  return { node }
}

type Player = (node: HTMLElement, message: ShowMessage, now: () => number) => () => void
const LATER: Record<string, () => Promise<Player>> = {
  bar: () => import('./bar').then((part) => part.playBar),
  burst: () => import('./burst').then((part) => part.playBurst),
  chance: () => import('./chance').then((part) => part.playChance),
  draw: () => import('./board').then((part) => part.playBoard),
  throw: () => import('./throw').then((part) => part.playThrow),
  speech: () => import('./speech').then((part) => part.playSpeech),
}

const MAKERS: Record<string, (message: ShowMessage, source: Source | null) => Made | null> = {
  picture,
  clip,
  sound,
  speech,
  caption,
  bar: frame,
  burst: frame,
  chance: frame,
  draw: frame,
  throw: frame,
}
