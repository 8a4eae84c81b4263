import BeatAvatar from '@/pages/cue/settings/BeatAvatar.vue'
import { FIVE, firstName, type BeatKind } from './kind'

export default {
  name: 'Voice box',
  offered: 'among more',
  fresh: (around) => ({ preset: firstName(around, 'voice', 'preset', 'Preset'), ...FIVE }),
  say: (b) => [
    b.preset,
    b.pitch != null && `pitch ${b.pitch}`,
    b.mix != null && `mix ${Math.round(Number(b.mix) * 100)} %`,
  ],
  settings: [BeatAvatar],
} satisfies BeatKind
