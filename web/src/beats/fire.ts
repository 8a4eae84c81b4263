import BeatOut from '@/pages/cue/settings/BeatOut.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Another cue',
  offered: 'among more',
  fresh: ({ book, cue }) => {
    const other = book?.cues.find((one) => one.id !== cue?.id)?.id
    return other ? { cue: other } : 'no other cues yet'
  },
  settings: [BeatOut],
} satisfies BeatKind
