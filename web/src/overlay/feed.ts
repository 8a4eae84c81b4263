/** A WebSocket that reconnects by itself, with backoff and jitter, and reports its state. A connection on which nothing
 * was heard for a while counts as lost: after sleep or without a network, nobody says so. */

export interface Feed {
  close: () => void
  connected: () => boolean
  send: (message: Record<string, unknown>) => void
}

const SILENT_MS = 6000
/** How long connecting may take: on a network that was gone, a new try is sooner answered than an old one. */
const OPEN_MS = 3000
const MOST_PAUSE_MS = 2000
const LOOK_MS = 1000

export function openFeed<Message>(
  path: string,
  hear: (message: Message) => void,
  told: (connected: boolean) => void = () => {},
): Feed {
  let socket: WebSocket | null = null
  let attempt = 0
  let closed = false
  let connected = false
  let timer = 0
  let heardAt = 0

  function become(now: boolean): void {
    if (connected === now) return
    connected = now
    told(now)
  }

  function open(): void {
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws'
    const made = new WebSocket(`${scheme}://${location.host}${path}`)
    socket = made
    heardAt = performance.now()
    made.onopen = () => {
      attempt = 0
      heardAt = performance.now()
      become(true)
    }
    made.onmessage = (event) => {
      heardAt = performance.now()
      hear(JSON.parse(String(event.data)) as Message)
    }
    made.onclose = lost
  }

  function lost(): void {
    socket = null
    become(false)
    if (closed) return
    const pause = Math.min(MOST_PAUSE_MS, 200 * 2 ** attempt) * (0.5 + Math.random() / 2)
    attempt += 1
    timer = window.setTimeout(open, pause)
  }

  function look(): void {
    if (!socket || performance.now() - heardAt < (connected ? SILENT_MS : OPEN_MS)) return
    socket.onopen = socket.onmessage = socket.onclose = null
    socket.close()
    lost()
  }

  open()
  const looking = window.setInterval(look, LOOK_MS)
  return {
    close: () => {
      closed = true
      window.clearTimeout(timer)
      window.clearInterval(looking)
      socket?.close()
    },
    connected: () => connected,
    send: (message) => {
      if (connected) socket?.send(JSON.stringify(message))
    },
  }
}
