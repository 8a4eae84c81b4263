import BeatDraw from '@/pages/cue/settings/BeatDraw.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Draw a viewer',
  offered: 'at once',
  fresh: ({ book }) => ({
    jar: book?.jars.find((jar) => jar.kind === 'viewers')?.id ?? null,
    title: '',
    spin_s: 4,
    place: { x: 0.25, y: 0.3, w: 0.5, h: 0.3 },
  }),
  say: (beat) => [beat.title],
  settings: [BeatDraw],
} satisfies BeatKind
