import { sayKeys } from '@/logic/words'
import BeatKeys from '@/pages/cue/settings/BeatKeys.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Key tap',
  offered: 'among more',
  fresh: () => ({ combo: 'F8' }),
  say: (b) => [sayKeys(String(b.combo ?? ''))],
  settings: [BeatKeys],
} satisfies BeatKind
