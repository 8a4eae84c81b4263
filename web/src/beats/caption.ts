import type { BeatKind } from './kind'

export default {
  name: 'Caption',
  offered: 'at once',
  fresh: ({ cue }) => ({
    text: '{{viewer}}',
    length: { s: 5 },
    // Above spoken words, if there are any.
    place: { x: 0.2, y: cue?.beats.some((one) => one.kind === 'speech') ? 0.58 : 0.78, w: 0.6, h: 0.14 },
    size: 0.06,
  }),
  say: (b) => [b.text],
} satisfies BeatKind
