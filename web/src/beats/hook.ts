import BeatOut from '@/pages/cue/settings/BeatOut.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Hook',
  offered: 'among more',
  fresh: ({ book }) => {
    const hook = book?.gear.find((gear) => gear.kind === 'hook')?.id
    return hook ? { hook } : 'no hooks set up'
  },
  settings: [BeatOut],
} satisfies BeatKind
