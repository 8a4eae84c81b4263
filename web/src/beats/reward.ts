import BeatOut from '@/pages/cue/settings/BeatOut.vue'
import { FIVE, type BeatKind } from './kind'

export default {
  name: 'Reward',
  offered: 'among more',
  fresh: ({ book }) => {
    const reward = book?.rewards[0]?.id
    return reward ? { rewards: [reward], on: false, ...FIVE } : 'no rewards yet'
  },
  settings: [BeatOut],
} satisfies BeatKind
