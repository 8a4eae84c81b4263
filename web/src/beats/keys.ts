import { sayKeys } from '@/logic/words'
import BeatKeys from '@/pages/cue/settings/BeatKeys.vue'
import { FIVE, type BeatKind } from './kind'

export default {
  name: 'Latched keys',
  offered: 'among more',
  fresh: () => ({ combo: 'F8', ...FIVE }),
  say: (b) => [sayKeys(String(b.combo ?? ''))],
  settings: [BeatKeys],
  keeps: false,
} satisfies BeatKind
