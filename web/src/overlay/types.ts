/** What an overlay is told. Times are ms since 1970 by the server's clock. */

export interface Source {
  url: string
  kind: 'picture' | 'clip' | 'sound'
  mime: string
  length_s: number
  loops: number
  from_s: number
  to_s: number | null
  /** What levelling adds, in dB. */
  gain_db: number
}

export type Entrance =
  'none' | 'fade' | 'from_left' | 'from_right' | 'from_above' | 'from_below' | 'pop' | 'drop'

export interface Look {
  place?: { x: number; y: number; w: number; h: number }
  layer?: number
  opacity?: number
  corner?: number
  flip?: boolean
  enter?: Entrance
  leave?: Entrance
  fade_in_s?: number
  fade_out_s?: number
  volume?: number
  duck?: number
  size?: number
  colour?: string
  plate?: string | null
  face?: 'display' | 'text'
  align?: 'left' | 'centre' | 'right'
  caption?: boolean
  mouth?: boolean
  mouth_place?: { x: number; y: number; w: number; h: number }
  [more: string]: unknown
}

/** What a speech brings besides its sound. Times are ms from the sound's beginning. */
export interface SpeechInfo {
  /** Words with their beginning, end, and who says them. */
  words: [string, number, number, string][]
  /** Which mouth picture shows from when on. */
  mouth: [number, number][]
  pictures: string[]
  blink: string | null
}

export interface ShowMessage {
  t: 'show'
  run: string
  beat: string
  kind: string
  value: unknown
  at: number
  until: number | null
  look: Look
  media?: (Source | null)[]
  speech?: SpeechInfo
  /** What a throw throws. */
  things?: unknown[]
  now?: number
}

export interface OverlayInfo {
  id: string
  name: string
  width: number
  height: number
  sound: boolean
  picture: boolean
  private: boolean
  ground: string | null
  timers?: boolean
}

export type OverlayMessage =
  | ShowMessage
  | { t: 'hide'; run: string; beat: string; now: number }
  | { t: 'until'; run: string; beat: string; until: number | null; now: number }
  | { t: 'others'; value: number }
  | { t: 'timers'; rows: unknown[] }
  | {
      t: 'whole'
      now: number
      overlay: OverlayInfo
      others: number | null
      timers?: unknown[]
      up: ShowMessage[]
    }
  | { t: 'pong'; sent: number }
