import BeatBroadcast from '@/pages/cue/settings/BeatBroadcast.vue'
import { FIVE, scenesOf, type BeatKind } from './kind'

export default {
  name: 'Scene',
  offered: 'at once',
  // Another than the current one: that would change nothing.
  fresh: (around) => {
    const scenes = Object.keys(scenesOf(around))
    return { scene: scenes.find((name) => name !== around.scene) ?? scenes[0] ?? 'Scene', ...FIVE }
  },
  say: (b) => [b.scene],
  settings: [BeatBroadcast],
} satisfies BeatKind
