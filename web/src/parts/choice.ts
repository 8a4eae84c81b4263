/** One of a `PickField`'s choices: its value, its name, and its picture if it has one. */
export interface Choice {
  value: string | number
  name: string
  picture?: string
  /** The loudness of a sound, to recognise it by. */
  wave?: number[]
  /** Details beside its name: how long, how many, what is in it. */
  detail?: string
  /** The heading it belongs to. */
  group?: string
  /** Shown, but unavailable now. */
  off?: boolean
}
