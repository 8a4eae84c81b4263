import { sayValue } from '@/logic/words'
import { firstValue } from '@/logic/settings'
import BeatThing from '@/pages/cue/settings/BeatThing.vue'
import { FIVE, someThing, type BeatKind } from './kind'

export default {
  name: 'Thing: set',
  offered: 'among more',
  fresh: (around) => {
    const found = someThing(around, 'settings')
    if (typeof found === 'string') return found
    return { ...found.at, setting: found.part, value: firstValue(found.thing.settings[found.part]), ...FIVE }
  },
  say: (b) => [`${b.thing} ${b.setting}: ${sayValue(b.value)}`],
  settings: [BeatThing],
} satisfies BeatKind
