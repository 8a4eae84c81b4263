/** The overlay page: see-through, small, on its own. */
import { joinOverlay, ServerClock } from './link'
import { OverlayStage } from './stage'

const root = document.createElement('div')
root.id = 'stage'
Object.assign(root.style, { position: 'fixed', inset: '0' })
document.body.append(root)

const clock = new ServerClock()
const stage = new OverlayStage(root, { sound: true, picture: true, now: clock.now })
joinOverlay(`${location.pathname.replace(/\/$/, '')}/feed`, stage, clock)
void import('./faces')
