import { sayValue } from '@/logic/words'
import BeatLight from '@/pages/cue/settings/BeatLight.vue'
import { FIVE, type BeatKind } from './kind'

export default {
  name: 'Lights',
  offered: 'among more',
  fresh: () => ({ fixtures: 'all', colour: '#c0392b', ...FIVE }),
  say: (b) => [
    b.colour != null && sayValue(b.colour),
    b.level != null && `${Math.round(Number(b.level) * 100)} %`,
    b.look != null && b.look !== 'steady' && b.look,
  ],
  settings: [BeatLight],
} satisfies BeatKind
