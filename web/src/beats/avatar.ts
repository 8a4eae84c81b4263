import BeatAvatar from '@/pages/cue/settings/BeatAvatar.vue'
import { FIVE, firstName, type BeatKind } from './kind'

export default {
  name: 'Avatar',
  offered: 'among more',
  fresh: (around) => ({ outfit: firstName(around, 'avatar', 'outfit', 'Outfit'), ...FIVE }),
  say: (b) => [b.model, b.outfit, ...(b.expressions ?? []), b.pose],
  settings: [BeatAvatar],
} satisfies BeatKind
