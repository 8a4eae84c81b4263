import BeatBroadcast from '@/pages/cue/settings/BeatBroadcast.vue'
import { FIVE, scenesOf, type BeatKind } from './kind'

export default {
  name: 'Scene',
  offered: 'at once',
  // One that is not there already: it would change nothing.
  fresh: (around) => {
    const scenes = Object.keys(scenesOf(around))
    return { scene: scenes.find((name) => name !== around.scene) ?? scenes[0] ?? 'Scene', ...FIVE }
  },
  say: (b) => [b.scene],
  settings: [BeatBroadcast],
} satisfies BeatKind
