/** What an overlay is told. Times are ms since 1970 by the server's clock. */

export interface Source {
  url: string
  kind: 'picture' | 'clip' | 'sound'
  mime: string
  length_s: number
  loops: number
  from_s: number
  to_s: number | null
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
  [more: string]: unknown
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
  now?: number
}

export type OverlayMessage =
  | ShowMessage
  | { t: 'hide'; run: string; beat: string; now: number }
  | { t: 'until'; run: string; beat: string; until: number | null; now: number }
  | { t: 'others'; value: number }
  | {
      t: 'whole'
      now: number
      overlay: { id: string; width: number; height: number; sound: boolean; picture: boolean }
      others: number | null
      up: ShowMessage[]
    }
  | { t: 'pong'; sent: number }
