/** Bursts: particles of a picture or a shape that fly up and out, fall, bounce, and live for a while. */
import { seeded } from './random'
import type { ShowMessage, Source } from './types'

interface Particle {
  x: number
  y: number
  vx: number
  vy: number
  spin: number
  turn: number
  size: number
  colour: string
  born: number
}

const SHAPES: Record<string, (c: CanvasRenderingContext2D, r: number) => void> = {
  ticket: (c, r) => {
    c.fillRect(-r, -r * 0.55, r * 2, r * 1.1)
    c.clearRect(-r * 0.55, -r * 0.1, r * 1.1, r * 0.2)
  },
  spark: (c, r) => {
    c.beginPath()
    for (let i = 0; i < 8; i += 1) {
      const radius = i % 2 ? r * 0.35 : r
      c.lineTo(Math.cos((i * Math.PI) / 4) * radius, Math.sin((i * Math.PI) / 4) * radius)
    }
    c.fill()
  },
  leaf: (c, r) => {
    c.beginPath()
    c.moveTo(-r, 0)
    c.quadraticCurveTo(0, -r, r, 0)
    c.quadraticCurveTo(0, r, -r, 0)
    c.fill()
  },
  dot: (c, r) => {
    c.beginPath()
    c.arc(0, 0, r, 0, Math.PI * 2)
    c.fill()
  },
}

function loaded(sources: (Source | null)[]): HTMLImageElement[] {
  return sources
    .filter((s): s is Source => s !== null)
    .map((s) => {
      const image = new Image()
      image.src = s.url
      return image
    })
}

/** Plays the burst on a canvas over `node` from the instant at which it began; returns a function that stops it. */
export function playBurst(node: HTMLElement, message: ShowMessage, now: () => number): () => void {
  const look = message.look as Record<string, number> & { colours?: string[] }
  const random = seeded(`${message.run}/${message.beat}`)
  const canvas = document.createElement('canvas')
  Object.assign(canvas.style, { width: '100%', height: '100%' })
  node.append(canvas)
  const images = loaded(message.media ?? [])
  const shape = typeof message.value === 'string' ? message.value : 'ticket'
  const colours = look.colours ?? ['#f0a23c']
  const spread = ((look.spread ?? 90) * Math.PI) / 180
  const particles: Particle[] = Array.from({ length: look.count ?? 60 }, () => {
    const angle = -Math.PI / 2 + (random() - 0.5) * spread
    const speed = (0.35 + 0.65 * random()) * (look.speed ?? 0.7) * 2.2
    return {
      x: 0.5,
      y: 0.85,
      vx: Math.cos(angle) * speed * 0.6,
      vy: Math.sin(angle) * speed,
      spin: (random() - 0.5) * 12,
      turn: random() * Math.PI * 2,
      size: 0.015 + random() * 0.02,
      colour: colours[Math.floor(random() * colours.length)] ?? '#f0a23c',
      born: random() * 0.35,
    }
  })
  const life = look.life_s ?? 3
  const gravity = (look.gravity ?? 0.6) * 1.6
  const bounce = look.bounce ?? 0
  let last = 0
  let stopped = false

  function step(dt: number, age: number): void {
    for (const p of particles) {
      if (age < p.born) continue
      p.vy += gravity * dt
      p.x += p.vx * dt
      p.y += p.vy * dt
      p.turn += p.spin * dt
      if (bounce > 0 && p.y > 0.97 && p.vy > 0) {
        p.y = 0.97
        p.vy *= -bounce
        p.vx *= 0.8
      }
    }
  }

  function draw(age: number): void {
    const { clientWidth: w, clientHeight: h } = node
    if (canvas.width !== w || canvas.height !== h) Object.assign(canvas, { width: w, height: h })
    const c = canvas.getContext('2d')
    if (!c) return
    c.clearRect(0, 0, w, h)
    for (const p of particles) {
      const own = age - p.born
      if (own < 0 || own > life) continue
      c.save()
      c.globalAlpha = Math.min(1, (life - own) / 0.5)
      c.translate(p.x * w, p.y * h)
      c.rotate(p.turn)
      const r = p.size * Math.min(w, h)
      const image = images[Math.floor(p.size * 1e5) % Math.max(1, images.length)]
      if (image?.complete && image.naturalWidth) {
        const tall = (image.naturalHeight / image.naturalWidth) * r * 3
        c.drawImage(image, -r * 1.5, -tall / 2, r * 3, tall)
      } else {
        c.fillStyle = p.colour
        ;(SHAPES[shape] ?? SHAPES.dot)?.(c, r)
      }
      c.restore()
    }
  }

  function frame(): void {
    if (stopped) return
    const age = (now() - message.at) / 1000
    while (last < age) {
      const dt = Math.min(1 / 60, age - last)
      last += dt
      step(dt, last)
    }
    draw(age)
    requestAnimationFrame(frame)
  }
  frame()
  return () => (stopped = true)
}
