/** One of the things a `PickField` offers: what it stands for, what it is called, and its picture where it has one. */
export interface Choice {
  value: string | number
  name: string
  picture?: string
  /** The loudness of a sound, by which one knows it. */
  wave?: number[]
  /** What is beside its name: how long, how many, what is in it. */
  detail?: string
  /** Under which heading it stands. */
  group?: string
  /** Shown, but not to be had now. */
  off?: boolean
}
