import BeatBar from '@/pages/cue/settings/BeatBar.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Bar',
  offered: 'at once',
  fresh: ({ book }) => {
    const count = book?.counts[0]
    if (!count) return 'no counts yet: add one on the Counts page'
    return {
      count: count.id,
      goal: count.goal ? null : 10,
      shape: 'rail',
      colour: '#f0a23c',
      plate: '#121d1b',
      title: true,
      says: 'number',
      length: { s: 10 },
      place: { x: 0.25, y: 0.06, w: 0.5, h: 0.1 },
    }
  },
  settings: [BeatBar],
} satisfies BeatKind
