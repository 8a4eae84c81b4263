/** The overlay's line to the server: keeps the server's time, reconnects by itself, feeds a stage. */
import { openFeed } from './feed'
import { OverlayStage } from './stage'
import type { OverlayInfo, OverlayMessage } from './types'

/** The server's clock as seen from here: the smallest difference counts, as it had the least delay. */
export class ServerClock {
  private ahead: number | null = null

  heard(now: number): void {
    const ahead = now - Date.now()
    if (this.ahead === null || ahead > this.ahead || Math.abs(ahead - this.ahead) > 2000) this.ahead = ahead
  }

  now = (): number => Date.now() + (this.ahead ?? 0)
}

export interface Line {
  close: () => void
  /** The last measured delay to the server and back, in ms. */
  lag: () => number | null
  connected: () => boolean
}

export function joinOverlay(
  feedPath: string,
  stage: OverlayStage,
  clock: ServerClock,
  tell?: (overlay: OverlayInfo) => void,
  timers?: (rows: unknown[]) => void,
): Line {
  let lag: number | null = null
  const feed = openFeed(feedPath, (raw) => {
    const message = raw as unknown as OverlayMessage
    switch (message.t) {
      case 'whole':
        clock.heard(message.now)
        stage.setOthers(message.others ?? 1)
        stage.setOutputs(message.overlay.sound, message.overlay.picture)
        stage.whole(message.up)
        tell?.(message.overlay)
        timers?.(message.timers ?? [])
        break
      case 'timers':
        timers?.(message.rows)
        break
      case 'show':
        if (message.now) clock.heard(message.now)
        stage.show(message)
        // Whether the browser allows sound is known a moment later.
        window.setTimeout(greet, 800)
        break
      case 'hide':
        stage.hide(message.run, message.beat)
        break
      case 'until':
        stage.setUntil(message.run, message.beat, message.until)
        break
      case 'others':
        stage.setOthers(message.value)
        break
      case 'pong':
        lag = Math.round(performance.now() - (message.sent ?? 0))
        break
    }
  })
  const greet = (): void =>
    feed.send({
      t: 'ping',
      sent: performance.now(),
      lag_ms: lag,
      up: stage.count,
      width: window.innerWidth,
      height: window.innerHeight,
      blocked: stage.blocked,
    })
  const first = window.setTimeout(greet, 300)
  const ping = window.setInterval(greet, 2000)
  const close = (): void => {
    window.clearTimeout(first)
    window.clearInterval(ping)
    feed.close()
  }
  return { close, lag: () => lag, connected: feed.connected }
}
