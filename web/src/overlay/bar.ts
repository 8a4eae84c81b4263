/** Bars: how far a count is on its way to its goal. A bar fills up as the count grows, and lights up when it is full. */
import type { ShowMessage } from './types'

export interface BarLook {
  shape?: 'rail' | 'jar' | 'dial'
  colour?: string
  plate?: string
  title?: boolean
  says?: 'number' | 'share' | 'left' | 'nothing'
}
export interface Progress {
  name: string
  now: number
  goal: number
}

const SVG = 'http://www.w3.org/2000/svg'
const PALE = '#f4eedd'
/** How long it takes to fill up to another number. */
const GROWS_MS = 600

/** The words for a bar's number. */
function saidOf({ now, goal }: Progress, says: BarLook['says']): string {
  if (says === 'nothing') return ''
  if (says === 'share') return `${Math.floor((now / goal) * 100)} %`
  if (says === 'left') return now >= goal ? 'Done!' : `${goal - now} to go`
  return `${now} of ${goal}`
}

function draw(parent: Element, name: string, attributes: Record<string, string | number>): SVGElement {
  const node = document.createElementNS(SVG, name)
  for (const [key, value] of Object.entries(attributes)) node.setAttribute(key, String(value))
  parent.append(node)
  return node
}

type Fill = (share: number) => void

/** Two rails on sleepers; the upper half is laid as far as the count has come. */
function rail(svg: SVGElement, ink: string, plate: string): Fill {
  svg.setAttribute('viewBox', '0 0 600 60')
  draw(svg, 'rect', { width: 600, height: 60, rx: 12, fill: plate })
  for (let x = 26; x < 590; x += 26)
    draw(svg, 'rect', { x, y: 12, width: 7, height: 36, rx: 2, fill: PALE, opacity: 0.18 })
  const laid = draw(svg, 'rect', { x: 8, y: 19, height: 22, rx: 6, fill: ink })
  return (share) => laid.setAttribute('width', String(584 * share))
}

/** A jar with shoulders and a lid, filled from below. */
function jar(svg: SVGElement, ink: string, plate: string, id: string): Fill {
  svg.setAttribute('viewBox', '0 0 200 240')
  const body = 'M52 44h96v14c20 8 30 22 30 44v96c0 20-12 32-32 32H54c-20 0-32-12-32-32v-96c0-22 10-36 30-44z'
  const clip = draw(svg, 'clipPath', { id })
  draw(clip, 'path', { d: body })
  draw(svg, 'path', { d: body, fill: plate })
  const inside = draw(svg, 'rect', { x: 0, width: 200, height: 240, fill: ink, 'clip-path': `url(#${id})` })
  draw(svg, 'path', { d: body, fill: 'none', stroke: PALE, 'stroke-width': 6 })
  draw(svg, 'rect', { x: 44, y: 18, width: 112, height: 26, rx: 8, fill: PALE })
  return (share) => inside.setAttribute('y', String(230 - 186 * share))
}

/** A gauge of three quarters of a turn with a needle. */
function dial(svg: SVGElement, ink: string, plate: string): Fill {
  svg.setAttribute('viewBox', '0 0 200 200')
  const arc = 'M43.4 156.6A80 80 0 1 1 156.6 156.6'
  draw(svg, 'circle', { cx: 100, cy: 100, r: 96, fill: plate })
  draw(svg, 'path', { d: arc, fill: 'none', stroke: PALE, 'stroke-width': 16, opacity: 0.2 })
  const turned = draw(svg, 'path', { d: arc, fill: 'none', stroke: ink, 'stroke-width': 16, pathLength: 100 })
  const needle = draw(svg, 'path', { d: 'M100 104L96 100 100 40 104 100z', fill: PALE })
  draw(svg, 'circle', { cx: 100, cy: 100, r: 9, fill: PALE })
  return (share) => {
    turned.setAttribute('stroke-dasharray', `${100 * share} 200`)
    needle.setAttribute('transform', `rotate(${-135 + 270 * share} 100 100)`)
  }
}

function line(node: HTMLElement, ink: string, plate: string, size: string): HTMLElement {
  const text = document.createElement('span')
  Object.assign(text.style, {
    font: `650 ${size}/1.15 "Bricolage Grotesque Variable", sans-serif`,
    color: ink,
    background: plate,
    padding: '0.05em 0.5em',
    borderRadius: '0.3em',
    whiteSpace: 'nowrap',
  })
  node.append(text)
  return text
}

/** Draws a bar into ``node``. Returns a function that takes another number at once. */
export function drawBar(
  node: HTMLElement,
  look: BarLook,
  progress: Progress,
  id: string,
): (next: Progress, share: number) => void {
  const { shape = 'rail', colour = '#f0a23c', plate = '#121d1b', title = true, says = 'number' } = look
  const wide = shape === 'rail'
  Object.assign(node.style, { display: 'grid', placeItems: 'center', gap: '3%', alignContent: 'center' })
  node.style.gridTemplateRows = `${title ? 'auto ' : ''}minmax(0, 1fr)${says === 'nothing' ? '' : ' auto'}`
  const size = wide ? '26cqh' : '9cqh'
  if (title) line(node, PALE, plate, size).textContent = progress.name
  const svg = document.createElementNS(SVG, 'svg')
  Object.assign(svg.style, { width: '100%', height: '100%', overflow: 'visible' })
  svg.setAttribute('preserveAspectRatio', wide ? 'none' : 'xMidYMid meet')
  node.append(svg)
  const fill = wide
    ? rail(svg, colour, plate)
    : shape === 'jar'
      ? jar(svg, colour, plate, id)
      : dial(svg, colour, plate)
  const words = says === 'nothing' ? null : line(node, PALE, plate, size)
  return (next, share) => {
    fill(Math.min(1, Math.max(0, share)))
    if (words) words.textContent = saidOf(next, says)
    node.dataset.now = String(next.now)
  }
}

export function playBar(node: HTMLElement, message: ShowMessage, now: () => number): () => void {
  const told = (): Progress => message.value as Progress
  const set = drawBar(node, message.look as BarLook, told(), `bar-${message.run}-${message.beat}`)
  let [from, to, since] = [0, told().now / told().goal, now()]
  let isFull = to >= 1
  let stopped = false
  function frame(): void {
    if (stopped) return
    const share = told().now / told().goal
    const part = Math.min(1, (now() - since) / GROWS_MS)
    const shown = from + (to - from) * (1 - (1 - part) ** 3)
    if (share !== to) [from, to, since] = [shown, share, now()]
    set(told(), shown)
    if (to >= 1 && !isFull) celebrate(node)
    isFull = to >= 1
    requestAnimationFrame(frame)
  }
  frame()
  return () => (stopped = true)
}

/** Full: it swells and glows for a moment, three times a second at most. */
function celebrate(node: HTMLElement): void {
  node.dataset.full = 'yes'
  node.animate(
    [
      { transform: 'none', filter: 'none' },
      { transform: 'scale(1.12)', filter: 'drop-shadow(0 0 2cqh #f4eedd) brightness(1.25)' },
      { transform: 'none', filter: 'none' },
    ],
    { duration: 900, iterations: 3, easing: 'ease-in-out' },
  )
}
