import BeatWin from '@/pages/cue/settings/BeatWin.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Winner',
  offered: 'among more',
  fresh: ({ cue }) => ({
    what: 'a prize',
    whose: cue?.beats.some((beat) => beat.kind === 'draw') ? 'drawn' : 'caller',
  }),
  say: (beat) => [beat.what],
  settings: [BeatWin],
} satisfies BeatKind
