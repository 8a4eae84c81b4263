import { freshOutcome } from '@/logic/beats'
import ChanceSettings from '@/pages/cue/settings/ChanceSettings.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Chance',
  offered: 'at once',
  fresh: () => ({
    dice: { count: 3, sides: 6 },
    outcomes: [
      freshOutcome('alike', 'Three alike', 'all_equal'),
      freshOutcome('pair', 'A pair', 'pair'),
      freshOutcome('nothing', 'Nothing'),
    ],
    spin_s: 2.5,
    place: { x: 0.3, y: 0.25, w: 0.4, h: 0.4 },
  }),
  settings: [ChanceSettings],
} satisfies BeatKind
