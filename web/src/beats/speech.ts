import BeatSpeech from '@/pages/cue/settings/BeatSpeech.vue'
import type { BeatKind } from './kind'

export default {
  name: 'Speech',
  offered: 'at once',
  fresh: () => ({ text: '{{text}}', length: 'natural', caption: true, mouth: false, duck: 0.4 }),
  say: (b) => [b.text],
  settings: [BeatSpeech],
  natural: true,
  asks: true,
} satisfies BeatKind
