/** The marks of the kinds of output: one shape and one colour each, so that nothing depends on colour alone. */
import { BEAT_KINDS, type BeatKindName } from '@/api/kinds'

export type Output = (typeof BEAT_KINDS)[BeatKindName]['output']

export interface Mark {
  name: string
  colour: string
  /** SVG path data in a box of 24; drawn filled with even-odd holes. */
  path: string
}

export const MARKS: Record<Output, Mark> = {
  picture: {
    name: 'Picture',
    colour: 'var(--sage)',
    path: 'M20 3C10 3 4 8 4 15c0 2 .5 3.600 1.200 4.800L3 22l1.500 1 2.300-2.300C8.200 21.500 9.900 22 12 21.500 19 20 21 11 20 3zM8.500 18.500 15 10l-5 9z',
  },
  clip: {
    name: 'Clip',
    colour: 'var(--teal)',
    path: 'M3 4h18v16H3zM5 6v2h2V6zm0 5v2h2v-2zm0 5v2h2v-2zM17 6v2h2V6zm0 5v2h2v-2zm0 5v2h2v-2zM9 7v10h6V7z',
  },
  sound: {
    name: 'Sound',
    colour: 'var(--straw)',
    path: 'M12 2a2 2 0 0 1 2 2c3 1 5 4 5 8v4l2 3H3l2-3v-4c0-4 2-7 5-8a2 2 0 0 1 2-2zM9 20h6a3 3 0 0 1-6 0z',
  },
  speech: {
    name: 'Speech',
    colour: 'var(--rose)',
    path: 'M12 4c6 0 10 4 10 8s-4 8-10 8S2 16 2 12s4-8 10-8zm-6.500 6c1.500 5 11.500 5 13 0-3 1.200-10 1.200-13 0z',
  },
  caption: {
    name: 'Caption',
    colour: 'var(--sand)',
    path: 'M3 3h9l10 10-9 9L3 12zm4 2.500A1.800 1.800 0 1 0 7 9a1.800 1.800 0 0 0 0-3.500z',
  },
  broadcast: {
    name: 'Broadcast',
    colour: 'var(--slate)',
    path: 'M2 21V12C2 6 6.500 3 12 3s10 3 10 9v9h-5v-8c0-3-2-5-5-5s-5 2-5 5v8z',
  },
  light: { name: 'Lights', colour: 'var(--amber)', path: 'M8 2h8l3 9H5zm-1 11h10l-2 3H9zm4 4h2v5h-2z' },
  avatar: {
    name: 'Avatar',
    colour: 'var(--lilac)',
    path: 'M3 4c6 2 12 2 18 0v7c0 6-4 10-9 11-5-1-9-5-9-11zm4 6c1.500-1.500 3-1.500 4 0-1 1-3 1-4 0zm6 0c1-1.500 2.500-1.500 4 0-1 1-3 1-4 0zm-4 6c2 1.500 4 1.500 6 0-2 3-4 3-6 0z',
  },
  voice: {
    name: 'Voice box',
    colour: 'var(--plum)',
    path: 'M7 2h10v20H7zm2 3v3h2V5zm4 0v3h2V5zM9 10v3h2v-3zm4 0v3h2v-3zm-4 5v3h2v-3zm4 0v3h2v-3z',
  },
  haptics: {
    name: 'Haptics',
    colour: 'var(--brick)',
    path: 'M8 22c-3-3-5-7-5-10 0-1.500 2-1.500 2.500 0L7 14V5c0-2 2.500-2 2.500 0v6V3c0-2 2.500-2 2.500 0v8-7c0-2 2.500-2 2.500 0v8-5c0-2 2.500-2 2.500 0v8c0 4-1 6-2 7z',
  },
  keys: {
    name: 'Keys',
    colour: 'var(--grey)',
    path: 'M4 3h16l1 1v16l-1 1H4l-1-1V4zm2 3v10h12V6zm1 12v1h10v-1z',
  },
  things: {
    name: 'Things',
    colour: 'var(--sky)',
    path: 'M12 2a10 10 0 1 0 .1 0zm0 3.500a6.500 6.500 0 1 1-.1 0zM10.800 4.500h2.400v6.300h6.300v2.400h-6.300v6.300h-2.400v-6.300H4.500v-2.400h6.300z',
  },
  hook: { name: 'Hook', colour: 'var(--rust)', path: 'M13 2h3v12a6 6 0 0 1-12 0v-2h3v2a3 3 0 0 0 6 0z' },
  chance: {
    name: 'Chance',
    colour: 'var(--cream)',
    path: 'M4 2h16l2 2v16l-2 2H4l-2-2V4zm4 4a2 2 0 1 0 .1 0zm8 0a2 2 0 1 0 .1 0zm-4 4a2 2 0 1 0 .1 0zm-4 4a2 2 0 1 0 .1 0zm8 0a2 2 0 1 0 .1 0z',
  },
  reward: {
    name: 'Reward',
    colour: 'var(--marmalade)',
    path: 'M12 2l8 5v10l-8 5-8-5V7zm0 5-4 2.500v5L12 17l4-2.500v-5z',
  },
  count: {
    name: 'Count',
    colour: 'var(--sky)',
    path: 'M4 3h3v18H4zm5 0h3v18H9zm5 0h3v18h-3zM2 17 20 5l1.500 2.500L3.500 20z',
  },
  reply: { name: 'Reply', colour: 'var(--mint)', path: 'M2 4h20v12H11l-5 5v-5H2z' },
  cue: {
    name: 'Another cue',
    colour: 'var(--marmalade)',
    path: 'M7 2h10v3l2 3v12l-2 2H7l-2-2V8l2-3zm0 9v6h10v-6z',
  },
}

/** The output whose mark a kind of beat uses; that of another cue for kinds without one. */
export function outputOf(kind: string): Output {
  return kind in BEAT_KINDS ? BEAT_KINDS[kind as BeatKindName].output : 'cue'
}

/** The mark of an output, or of a kind of beat. */
export function markOf(name: string): Mark {
  return MARKS[name as Output] ?? MARKS[outputOf(name)]
}
