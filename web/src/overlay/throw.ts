/**
 * Throws: things or drops that fly where the server computed, and what they do when they hit.
 *
 * Nothing here is random: a thing's place follows from its age alone, so that a page that joins late, or a second
 * one, shows the same.
 */
import { seeded } from './random'
import type { ShowMessage, Source } from './types'

/** Thrown at ms, flight ms, from x and y, to x and y, arc, turns, and the target. */
type Thing = [number, number, number, number, number, number, number, number, string]

interface ThrowLook {
  landing: 'bounce' | 'stick' | 'run'
  linger_s: number
  size: number
  colour: string
  thickness: number
}

interface Placed {
  x: number
  y: number
  /** Full turns. */
  turn: number
  /** From 1 (there) to 0 (gone). */
  seen: number
  /** From 0 to 1: how far a drop has run down; null while it flies. */
  ran: number | null
}

const FADE_S = 0.3

/** Returns where a thing is, `age` seconds after it was thrown; null while it isn't there. */
function placed(thing: Thing, look: ThrowLook, age: number): Placed | null {
  const [, flightMs, x0, y0, x1, y1, arc, spin] = thing
  const flight = flightMs / 1000
  if (age < 0 || age > flight + look.linger_s) return null
  if (age < flight) {
    const t = age / flight
    return {
      x: x0 + (x1 - x0) * t,
      y: y0 + (y1 - y0) * t - 4 * arc * t * (1 - t),
      turn: spin * t,
      seen: 1,
      ran: null,
    }
  }
  const after = age - flight
  const seen = Math.min(1, (look.linger_s - after) / Math.min(FADE_S, look.linger_s))
  if (look.landing === 'bounce') {
    const gravity = Math.max(1.4, (8 * arc) / flight ** 2)
    const vx = (-(x1 - x0) / flight) * 0.35
    const vy = -0.35 - Math.abs((y1 - y0 + 4 * arc) / flight) * 0.15
    return {
      x: x1 + vx * after,
      y: y1 + vy * after + (gravity * after * after) / 2,
      turn: spin * (1 + after * 1.5),
      seen,
      ran: null,
    }
  }
  const ran =
    look.landing === 'run' ? 1 - Math.exp((-after / look.linger_s) * 3 * (1.05 - look.thickness)) : 0
  return { x: x1, y: y1, turn: look.landing === 'run' ? 0 : spin, seen, ran }
}

function image(source: Source | null | undefined): HTMLImageElement | null {
  if (!source) return null
  const made = new Image()
  made.src = source.url
  return made
}

function parcel(c: CanvasRenderingContext2D, r: number, picture: HTMLImageElement): void {
  if (!picture.complete || !picture.naturalWidth) return
  const tall = (picture.naturalHeight / picture.naturalWidth) * r * 2
  c.drawImage(picture, -r, -tall / 2, r * 2, tall)
}

/** A drop in the air: round in front, drawn out behind. */
function drop(c: CanvasRenderingContext2D, r: number, along: number): void {
  c.rotate(along)
  c.beginPath()
  c.arc(0, 0, r * 0.55, -Math.PI / 2, Math.PI / 2)
  c.quadraticCurveTo(-r * 0.7, r * 0.5, -r * 1.5, 0)
  c.quadraticCurveTo(-r * 0.7, -r * 0.5, 0, -r * 0.55)
  c.fill()
}

/** A drop that hit: a blot, and what runs down from it. */
function blot(c: CanvasRenderingContext2D, r: number, seed: string, ran: number, thickness: number): void {
  const random = seeded(seed)
  c.beginPath()
  c.arc(0, 0, r * 0.8, 0, Math.PI * 2)
  c.fill()
  for (let i = 0; i < 7; i += 1) {
    const angle = random() * Math.PI * 2
    const far = r * (0.55 + random() * 0.6)
    c.beginPath()
    c.arc(Math.cos(angle) * far, Math.sin(angle) * far, r * (0.14 + random() * 0.26), 0, Math.PI * 2)
    c.fill()
  }
  for (let i = 0; i < 3; i += 1) {
    const wide = r * (0.16 + random() * 0.14) * (0.6 + thickness * 0.6)
    const x = (random() - 0.5) * r
    const long = r * (1.2 + random() * 3) * ran
    c.beginPath()
    c.roundRect(x - wide, 0, wide * 2, long + wide, wide)
    c.fill()
    c.beginPath()
    c.arc(x, long, wide * 1.25, 0, Math.PI * 2)
    c.fill()
  }
}

/** Plays a throw on a canvas over the whole of `node`; returns a function that stops it. */
export function playThrow(node: HTMLElement, message: ShowMessage, now: () => number): () => void {
  const look = message.look as unknown as ThrowLook
  const things = (message.things ?? []) as Thing[]
  const canvas = document.createElement('canvas')
  Object.assign(canvas.style, { width: '100%', height: '100%' })
  node.append(canvas)
  const pictures = (message.media ?? []).map(image).filter((made) => made !== null)
  let stopped = false

  function draw(): void {
    const { clientWidth: w, clientHeight: h } = node
    if (canvas.width !== w || canvas.height !== h) Object.assign(canvas, { width: w, height: h })
    const c = canvas.getContext('2d')
    if (!c) return
    c.clearRect(0, 0, w, h)
    const since = now() - message.at
    const hit: string[] = []
    things.forEach((thing, i) => {
      const age = (since - thing[0]) / 1000
      if (age * 1000 >= thing[1]) hit.push(thing[8])
      const at = placed(thing, look, age)
      if (!at) return
      const r = (look.size * h) / 2
      c.save()
      c.globalAlpha = Math.max(0, at.seen)
      c.translate(at.x * w, at.y * h)
      const picture = pictures[i % Math.max(1, pictures.length)]
      if (picture) {
        c.rotate(at.turn * Math.PI * 2)
        parcel(c, r, picture)
      } else {
        c.fillStyle = look.colour
        const next = placed(thing, look, age + 0.02)
        if (at.ran !== null) blot(c, r, `${message.run}/${message.beat}/${i}`, at.ran, look.thickness)
        else drop(c, r, next ? Math.atan2((next.y - at.y) * h, (next.x - at.x) * w) : Math.PI / 2)
      }
      c.restore()
    })
    const told = hit.join(' ')
    if (node.dataset.hit !== told) node.dataset.hit = told
  }

  function frame(): void {
    if (stopped) return
    draw()
    requestAnimationFrame(frame)
  }
  frame()
  return () => (stopped = true)
}
