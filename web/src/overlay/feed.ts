/** A WebSocket that reconnects by itself, with backoff and jitter, and reports its state. */

export interface Feed {
  close: () => void
  connected: () => boolean
  send: (message: Record<string, unknown>) => void
}

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

  function become(now: boolean): void {
    if (connected === now) return
    connected = now
    told(now)
  }

  function open(): void {
    socket = new WebSocket(`ws://${location.host}${path}`)
    socket.onopen = () => {
      attempt = 0
      become(true)
    }
    socket.onmessage = (event) => hear(JSON.parse(String(event.data)) as Message)
    socket.onclose = () => {
      become(false)
      if (closed) return
      const pause = Math.min(5000, 200 * 2 ** attempt) * (0.5 + Math.random() / 2)
      attempt += 1
      timer = window.setTimeout(open, pause)
    }
  }

  open()
  return {
    close: () => {
      closed = true
      window.clearTimeout(timer)
      socket?.close()
    },
    connected: () => connected,
    send: (message) => {
      if (connected) socket?.send(JSON.stringify(message))
    },
  }
}
