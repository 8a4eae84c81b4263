/** A feed of this server: its messages, and whether it is connected. */
import { openLine } from '@/logic/socket'

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
  let connected = false
  function become(now: boolean): void {
    if (connected === now) return
    connected = now
    told(now)
  }
  const scheme = location.protocol === 'https:' ? 'wss' : 'ws'
  const line = openLine<Message>(`${scheme}://${location.host}${path}`, {
    open: () => {
      line.steady()
      become(true)
    },
    hear,
    lost: () => become(false),
  })
  return {
    close: () => {
      line.close()
      become(false)
    },
    connected: () => connected,
    send: (message) => line.send(message),
  }
}
