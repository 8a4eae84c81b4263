import type { BeatKind } from './kind'

export default {
  name: 'Sound',
  offered: 'with a file',
  fresh: () => ({ length: 'natural' }),
  shows: 'sound',
  natural: true,
} satisfies BeatKind
