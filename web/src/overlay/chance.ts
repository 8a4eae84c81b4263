/** Visible chance: dice that tumble, or a drum that spins; both stop at the real result. */
import { seeded } from './random'
import type { ShowMessage } from './types'

interface ChanceLook {
  dice?: { count: number; sides: number } | null
  outcomes?: { id: string; name: string; weight: number }[]
  spin_s?: number
}

const PIPS: Record<number, [number, number][]> = {
  1: [[1, 1]],
  2: [
    [0, 0],
    [2, 2],
  ],
  3: [
    [0, 0],
    [1, 1],
    [2, 2],
  ],
  4: [
    [0, 0],
    [2, 0],
    [0, 2],
    [2, 2],
  ],
  5: [
    [0, 0],
    [2, 0],
    [1, 1],
    [0, 2],
    [2, 2],
  ],
  6: [
    [0, 0],
    [2, 0],
    [0, 1],
    [2, 1],
    [0, 2],
    [2, 2],
  ],
}
/** The share of the spin after which the result stands still. */
const SETTLES = 0.7

function face(value: number, sides: number): string {
  const pips = sides <= 6 ? PIPS[value] : undefined
  const inside = pips
    ? pips.map(([x, y]) => `<circle cx="${26 + x * 24}" cy="${26 + y * 24}" r="9" fill="#121d1b"/>`).join('')
    : `<text x="50" y="66" text-anchor="middle" font-size="46" font-weight="700" fill="#121d1b" font-family="Bricolage Grotesque Variable, sans-serif">${value}</text>`
  return `<svg viewBox="0 0 100 100" width="100%" height="100%"><path d="M14 4h68l14 14v64l-14 14H18L4 82V14z" fill="#f4eedd" stroke="#f0a23c" stroke-width="4"/>${inside}</svg>`
}

export function playChance(node: HTMLElement, message: ShowMessage, now: () => number): () => void {
  const look = message.look as ChanceLook
  const rolled = message.value as { faces: number[]; outcome: string }
  const spin = (look.spin_s ?? 2) * 1000
  const random = seeded(`${message.run}/${message.beat}`)
  const name = look.outcomes?.find((o) => o.id === rolled.outcome)?.name ?? rolled.outcome
  const word = document.createElement('div')
  Object.assign(word.style, {
    font: '700 9cqh/1.1 "Bricolage Grotesque Variable", sans-serif',
    color: '#f4eedd',
    background: '#121d1b',
    padding: '0.1em 0.6em',
    visibility: 'hidden',
  })
  Object.assign(node.style, { display: 'grid', placeItems: 'center', alignContent: 'center', gap: '4%' })
  const show = look.dice
    ? dice(node, rolled.faces, look.dice.sides, random)
    : drum(node, look.outcomes ?? [], rolled.faces[0] ?? 1)
  node.append(word)
  let stopped = false
  function frame(): void {
    if (stopped) return
    const part = Math.min(1, (now() - message.at) / (spin * SETTLES))
    show(part)
    if (part >= 1 && word.style.visibility === 'hidden') {
      word.textContent = name
      word.style.visibility = 'visible'
      node.dataset.outcome = rolled.outcome
    }
    requestAnimationFrame(frame)
  }
  frame()
  return () => (stopped = true)
}

function dice(
  node: HTMLElement,
  faces: number[],
  sides: number,
  random: () => number,
): (part: number) => void {
  const row = document.createElement('div')
  Object.assign(row.style, {
    display: 'flex',
    gap: '4%',
    justifyContent: 'center',
    height: '55cqh',
    width: '100%',
  })
  const boxes = faces.map(() => {
    const box = document.createElement('div')
    Object.assign(box.style, { height: '100%', aspectRatio: '1' })
    row.append(box)
    return box
  })
  node.append(row)
  const tumbling = faces.map(() => Array.from({ length: 24 }, () => 1 + Math.floor(random() * sides)))
  const shown = faces.map(() => 0)
  return (part) => {
    boxes.forEach((box, i) => {
      const own = Math.min(1, part * (1 + 0.15 * (faces.length - 1 - i)))
      const slow = 1 - (1 - own) ** 2
      const value = own >= 1 ? (faces[i] ?? 1) : (tumbling[i]?.[Math.floor(slow * 23)] ?? 1)
      if (shown[i] !== value) {
        shown[i] = value
        box.innerHTML = face(value, sides)
      }
      box.style.transform =
        own >= 1
          ? 'none'
          : `translateY(${-Math.abs(Math.sin(slow * 9)) * 30 * (1 - own)}%) rotate(${(1 - slow) * 540}deg)`
    })
  }
}

function drum(node: HTMLElement, outcomes: { name: string }[], stop: number): (part: number) => void {
  const view = document.createElement('div')
  Object.assign(view.style, {
    height: '55cqh',
    width: '80%',
    overflow: 'hidden',
    background: '#f4eedd',
    border: '0.6cqh solid #f0a23c',
  })
  const strip = document.createElement('div')
  const rounds = 5
  const names = Array.from(
    { length: rounds * outcomes.length + stop },
    (_, i) => outcomes[i % outcomes.length]?.name ?? '',
  )
  for (const text of names) {
    const line = document.createElement('div')
    line.textContent = text
    Object.assign(line.style, {
      height: '55cqh',
      display: 'grid',
      placeItems: 'center',
      font: '700 12cqh "Bricolage Grotesque Variable", sans-serif',
      color: '#121d1b',
    })
    strip.append(line)
  }
  view.append(strip)
  node.append(view)
  return (part) => {
    const slow = 1 - (1 - part) ** 3
    strip.style.transform = `translateY(${-slow * 55 * (names.length - 1)}cqh)`
  }
}
