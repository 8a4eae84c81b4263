import ChanceSettings from '@/pages/cue/settings/ChanceSettings.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Chance',
  offered: 'at once',
  fresh: () => ({
    dice: { count: 3, sides: 6 },
    outcomes: [
      { id: 'alike', name: 'Three alike', when: 'all_equal', weight: 1 },
      { id: 'pair', name: 'A pair', when: 'pair', weight: 1 },
      { id: 'nothing', name: 'Nothing', when: 'any', weight: 1 },
    ],
    spin_s: 2.5,
    place: { x: 0.3, y: 0.25, w: 0.4, h: 0.4 },
  }),
  settings: [ChanceSettings],
} satisfies BeatKind
