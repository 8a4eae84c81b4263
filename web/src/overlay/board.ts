/**
 * A draw of viewers: a departure board whose letters flip through the names of those who were in it, and stop one after
 * the other at the drawn one. Where less motion is asked for, the names only follow each other.
 */
import { seeded } from './random'
import type { ShowMessage } from './types'

interface BoardLook {
  title?: string
  names?: string[]
  drawn?: { name: string }
  spin_s?: number
}

/** The share of the draw after which every letter has stopped. */
const SETTLES = 0.75
/** From which part of that on they stop. */
const STOPS_FROM = 0.45
const MOST_LETTERS = 18
const FLIPS_MS = 70
const CALM_MS = 600

export function playBoard(node: HTMLElement, message: ShowMessage, now: () => number): () => void {
  const look = message.look as BoardLook
  const name = look.drawn?.name ?? ''
  const names = shuffled(look.names?.length ? look.names : [name], seeded(`${message.run}/${message.beat}`))
  const calm = matchMedia('(prefers-reduced-motion: reduce)').matches
  const longest = Math.max(6, ...[...names, name].map((one) => [...one].length))
  const letters = Math.min(MOST_LETTERS, longest)
  Object.assign(node.style, {
    display: 'grid',
    gridTemplateRows: look.title ? 'auto 1fr' : '1fr',
    gap: '1.2cqh',
    // These are shares of the stage.
    padding: '1.6cqh 1.4cqw',
    boxSizing: 'border-box',
    background: '#121d1b',
    border: '0.6cqh solid #f0a23c',
    borderRadius: '1.4cqh',
  })
  if (look.title) node.append(text(look.title, { font: font('min(24cqh, 7cqw)'), color: '#f0a23c' }))
  const row = document.createElement('div')
  Object.assign(row.style, { display: 'flex', gap: '0.8cqw', alignItems: 'stretch', minHeight: '0' })
  const tiles = Array.from({ length: letters }, () => {
    const tile = text('', {
      flex: '1',
      display: 'grid',
      placeItems: 'center',
      minWidth: '0',
      font: font(`min(60cqh, ${Math.floor(122 / letters)}cqw)`),
      color: '#f4eedd',
      background: 'linear-gradient(#26352f 49%, #0b1412 49%, #0b1412 51%, #1d2a26 51%)',
      borderRadius: '1cqh',
    })
    row.append(tile)
    return tile
  })
  node.append(row)

  const spin = (look.spin_s ?? 4) * 1000 * SETTLES
  let stopped = false
  function frame(): void {
    if (stopped) return
    const passed = now() - message.at
    const part = Math.min(1, passed / spin)
    const turn = Math.floor(Math.max(0, passed) / (calm ? CALM_MS : FLIPS_MS))
    tiles.forEach((tile, i) => {
      const done = part >= 1 || (!calm && part >= stopsAt(i, letters))
      const shown = done ? name : (names[(calm ? turn : turn + i) % names.length] ?? '')
      put(tile, letterOf(shown, i, letters), done || calm)
    })
    if (part >= 1 && node.dataset.drawn === undefined) node.dataset.drawn = name
    requestAnimationFrame(frame)
  }
  frame()
  return () => (stopped = true)
}

const font = (size: string): string => `700 ${size}/1 "Bricolage Grotesque Variable", sans-serif`

function text(said: string, style: Partial<CSSStyleDeclaration>): HTMLElement {
  const node = document.createElement('div')
  node.textContent = said
  Object.assign(node.style, style)
  return node
}

/** When the letter of this place stops, as a part of the spin: from left to right. */
function stopsAt(place: number, letters: number): number {
  return STOPS_FROM + ((1 - STOPS_FROM) * (place + 1)) / letters
}

/** The letter of a name at a place of the board; a name that is too long ends with an ellipsis. */
function letterOf(name: string, place: number, letters: number): string {
  const all = [...name]
  if (all.length > letters && place === letters - 1) return '…'
  return (all[place] ?? '').toLocaleUpperCase()
}

function put(tile: HTMLElement, letter: string, still: boolean): void {
  if (tile.textContent !== letter) tile.textContent = letter
  tile.style.transform = still ? 'none' : 'scaleY(0.92)'
}

function shuffled(names: string[], random: () => number): string[] {
  const out = [...names]
  for (let i = out.length - 1; i > 0; i -= 1) {
    const j = Math.floor(random() * (i + 1))
    const [a, b] = [out[i], out[j]]
    if (a !== undefined && b !== undefined) [out[i], out[j]] = [b, a]
  }
  return out
}
