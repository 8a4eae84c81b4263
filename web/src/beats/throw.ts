import BeatThrow from '@/pages/cue/settings/BeatThrow.vue'
import { WHOLE, type BeatKind } from './kind'

export default {
  name: 'Throw',
  offered: 'among more',
  fresh: () => ({ media: null, count: 5, length: 'natural', ...WHOLE }),
  settings: [BeatThrow],
  shows: 'picture',
  without: 'drops of a colour',
  natural: true,
} satisfies BeatKind
