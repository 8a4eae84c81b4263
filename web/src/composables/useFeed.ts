/** A feed of the server, over a WebSocket that reconnects by itself. (The small overlay has its own.) */
import { useWebSocket } from '@vueuse/core'
import { onScopeDispose } from 'vue'

const FIRST_PAUSE_MS = 200
const MOST_PAUSE_MS = 5000

/** How long to wait before retrying: doubled each time, with jitter. */
function pauseMs(retried: number): number {
  return Math.min(MOST_PAUSE_MS, FIRST_PAUSE_MS * 2 ** Math.max(0, retried - 1)) * (0.5 + Math.random() / 2)
}

export function useFeed<Message>(
  path: string,
  hear: (message: Message) => void,
  told: (connected: boolean) => void = () => {},
): void {
  const { close } = useWebSocket(`ws://${location.host}${path}`, {
    // A download looks like leaving the page; the connection stays.
    autoClose: false,
    autoReconnect: { delay: pauseMs },
    onConnected: () => told(true),
    onDisconnected: () => told(false),
    onMessage: (_, event) => hear(JSON.parse(String(event.data)) as Message),
  })
  onScopeDispose(() => close())
}
