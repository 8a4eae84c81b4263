import BeatBroadcast from '@/pages/cue/settings/BeatBroadcast.vue'
import { FIVE, scenesOf, type BeatKind } from './kind'

export default {
  name: 'Source',
  offered: 'at once',
  fresh: (around) => {
    const scenes = scenesOf(around)
    const scene = Object.keys(scenes).find((name) => scenes[name]?.length) ?? 'Scene'
    return { scene, source: scenes[scene]?.[0] ?? 'Source', any_source: false, visible: true, ...FIVE }
  },
  say: (b) => [b.any_source ? `one of ${b.scene}` : b.source],
  settings: [BeatBroadcast],
} satisfies BeatKind
