import BeatOut from '@/pages/cue/settings/BeatOut.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Count',
  offered: 'among more',
  fresh: () => ({ name: 'count', add: 1 }),
  settings: [BeatOut],
} satisfies BeatKind
