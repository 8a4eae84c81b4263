import BeatOut from '@/pages/cue/settings/BeatOut.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Another cue',
  offered: 'among more',
  fresh: ({ book, cue }) => {
    const other = book?.cues.find((one) => one.id !== cue?.id)?.id
    return other ? { cue: other } : 'there is no other cue'
  },
  settings: [BeatOut],
} satisfies BeatKind
