/** A WebSocket that reconnects by itself, with backoff and jitter. A connection on which nothing was heard for a while counts
 * as lost: after sleep or without a network, nobody says so. Pages, pads and overlays all use it. */

export interface Told<Message> {
  /** It connects now. */
  trying?: () => void
  open: () => void
  hear: (message: Message) => void
  /** The connection, or a try, is over; the next one follows, after `waitMs` if that was asked for. */
  lost: (waitMs: number) => void
}

export interface Limits {
  silentMs: number
  /** How long connecting may take: on a network that was gone, a new try is sooner answered than an old one. */
  openMs: number
  firstPauseMs: number
  mostPauseMs: number
  lookMs: number
}

export interface Line {
  send: (said: object) => void
  /** All is well: after the next loss it connects again at once. */
  steady: () => void
  /** Connects now, unless it is connected or about to be. */
  hurry: () => void
  /** Gives this connection up, and connects again after a while. */
  again: (waitMs: number) => void
  close: () => void
}

const USUAL: Limits = { silentMs: 6000, openMs: 3000, firstPauseMs: 200, mostPauseMs: 2000, lookMs: 1000 }

export function openLine<Message>(address: string, told: Told<Message>, limits: Partial<Limits> = {}): Line {
  const most = { ...USUAL, ...limits }
  let socket: WebSocket | null = null
  let attempt = 0
  let closed = false
  let isOpen = false
  let timer = 0
  let heardAt = 0

  function connect(): void {
    window.clearTimeout(timer)
    told.trying?.()
    const made = new WebSocket(address)
    socket = made
    heardAt = performance.now()
    made.onopen = () => {
      isOpen = true
      heardAt = performance.now()
      told.open()
    }
    made.onmessage = (event) => {
      heardAt = performance.now()
      told.hear(JSON.parse(String(event.data)) as Message)
    }
    made.onclose = () => lost()
  }

  function leave(): void {
    isOpen = false
    if (!socket) return
    socket.onopen = socket.onmessage = socket.onclose = null
    socket.close()
    socket = null
  }

  function lost(waitMs = 0): void {
    leave()
    if (closed) return
    told.lost(waitMs)
    const pause = Math.min(most.mostPauseMs, most.firstPauseMs * 2 ** attempt) * (0.5 + Math.random() / 2)
    attempt += 1
    timer = window.setTimeout(connect, Math.max(waitMs, pause))
  }

  function look(): void {
    if (socket && performance.now() - heardAt >= (isOpen ? most.silentMs : most.openMs)) lost()
  }

  const looking = window.setInterval(look, most.lookMs)
  connect()
  return {
    send: (said) => {
      if (isOpen) socket?.send(JSON.stringify(said))
    },
    steady: () => {
      attempt = 0
    },
    hurry: () => {
      if (closed || socket) return
      attempt = 0
      connect()
    },
    again: lost,
    close: () => {
      closed = true
      window.clearTimeout(timer)
      window.clearInterval(looking)
      leave()
    },
  }
}
