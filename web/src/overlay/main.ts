/** The overlay page: transparent, small, self-contained. With `?check` in its address a line shows its state. */
import { joinOverlay, ServerClock } from './link'
import { OverlayStage } from './stage'
import type { TimerRow } from './timers'

const root = document.createElement('div')
root.id = 'stage'
Object.assign(root.style, { position: 'fixed', inset: '0' })
document.body.append(root)

const clock = new ServerClock()
const stage = new OverlayStage(root, { sound: true, picture: true, now: clock.now })
let name = ''
let showTimers: ((rows: TimerRow[]) => void) | null = null
const line = joinOverlay(
  `${location.pathname.replace(/\/$/, '')}/feed`,
  stage,
  clock,
  (overlay) => {
    name = overlay.name
    document.body.style.background = overlay.ground ?? ''
  },
  (rows) => void takeTimers(rows as TimerRow[]),
)

/** Timers are loaded only if an overlay has any. */
async function takeTimers(rows: TimerRow[]): Promise<void> {
  if (!showTimers && !rows.length) return
  showTimers ??= (await import('./timers')).makeTimers(clock.now)
  showTimers(rows)
}
void import('./faces')
if (new URLSearchParams(location.search).has('check')) {
  void import('./check').then((part) => part.showCheck(line, stage, () => name))
}
