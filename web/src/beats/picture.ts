import type { BeatKind } from './kind'

export default {
  name: 'Picture',
  offered: 'with a file',
  fresh: () => ({ length: 'natural', place: { x: 0.3, y: 0.3, w: 0.4, h: 0.4 } }),
  shows: 'picture',
  faces: true,
  natural: true,
  loops: true,
} satisfies BeatKind
