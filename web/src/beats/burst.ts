import BeatBurst from '@/pages/cue/settings/BeatBurst.vue'
import { WHOLE, type BeatKind } from './kind'

export default {
  name: 'Burst',
  offered: 'at once',
  fresh: () => ({ length: { s: 4 }, ...WHOLE, shape: 'ticket', count: 80, media: null }),
  settings: [BeatBurst],
  shows: 'picture',
  without: 'a shape, no picture',
} satisfies BeatKind
