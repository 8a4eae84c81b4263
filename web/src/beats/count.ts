import BeatCount from '@/pages/cue/settings/BeatCount.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Count',
  offered: 'among more',
  fresh: () => ({ name: 'count', add: 1 }),
  settings: [BeatCount],
} satisfies BeatKind
