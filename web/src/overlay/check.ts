/** The health line of an overlay opened with `?check`; loaded only then. */
import type { Line } from './link'
import type { OverlayStage } from './stage'

export function showCheck(line: Line, stage: OverlayStage, name: () => string): void {
  const node = document.createElement('p')
  node.id = 'check'
  Object.assign(node.style, {
    position: 'fixed',
    left: '1%',
    bottom: '1%',
    zIndex: '5000',
    margin: '0',
    padding: '0.4em 0.8em',
    font: '18px "Atkinson Hyperlegible", sans-serif',
    background: '#121d1b',
    color: '#f4eedd',
    borderRadius: '6px',
  })
  document.body.append(node)
  let frames = 0
  let rate = 0
  const count = (): void => {
    frames += 1
    requestAnimationFrame(count)
  }
  requestAnimationFrame(count)
  const say = (): void => {
    rate = frames
    frames = 0
    const link = line.connected() ? 'connected' : 'not connected, retrying'
    const lag = line.lag() === null ? '' : `, ${line.lag()} ms round trip`
    const quiet = stage.blocked ? ', sound is blocked: click here' : ''
    node.textContent = `${name() || 'Overlay'}: ${link}${lag}, ${stage.count} up, ${rate} frames a second${quiet}`
  }
  say()
  window.setInterval(say, 1000)
}
