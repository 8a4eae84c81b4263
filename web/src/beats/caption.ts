import type { BeatKind } from './kind'

export default {
  name: 'Caption',
  offered: 'at once',
  fresh: () => ({
    text: '{{viewer}}',
    length: { s: 5 },
    place: { x: 0.2, y: 0.78, w: 0.6, h: 0.14 },
    size: 0.06,
  }),
  say: (b) => [b.text],
} satisfies BeatKind
