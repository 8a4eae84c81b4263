import BeatBroadcast from '@/pages/cue/settings/BeatBroadcast.vue'
import { FIVE, scenesOf, type BeatKind } from './kind'

export default {
  name: 'Scene',
  offered: 'at once',
  fresh: (around) => ({ scene: Object.keys(scenesOf(around))[0] ?? 'Scene', ...FIVE }),
  say: (b) => [b.scene],
  settings: [BeatBroadcast],
} satisfies BeatKind
