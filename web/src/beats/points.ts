import BeatPoints from '@/pages/cue/settings/BeatPoints.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Points',
  offered: 'among more',
  fresh: ({ cue }) => ({
    give: 100,
    whose: cue?.beats.some((beat) => beat.kind === 'draw') ? 'drawn' : 'caller',
  }),
  say: (beat) => [`+${beat.give}`],
  settings: [BeatPoints],
} satisfies BeatKind
