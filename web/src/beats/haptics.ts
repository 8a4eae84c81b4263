import BeatHaptics from '@/pages/cue/settings/BeatHaptics.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Haptics',
  offered: 'among more',
  fresh: ({ book }) => ({ pattern: book?.patterns[0]?.id ?? 'Pattern', strength: 1, length: 'natural' }),
  say: (b) => [b.pattern],
  settings: [BeatHaptics],
  natural: true,
  loops: true,
} satisfies BeatKind
