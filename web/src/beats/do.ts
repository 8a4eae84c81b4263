import { firstValue } from '@/logic/settings'
import BeatThing from '@/pages/cue/settings/BeatThing.vue'
import { someThing, type BeatKind } from './kind'

export default {
  name: 'Thing: do',
  offered: 'among more',
  fresh: (around) => {
    const found = someThing(around, 'deeds')
    if (typeof found === 'string') return found
    const kinds = Object.entries(found.thing.deeds[found.part]?.values ?? {})
    return {
      ...found.at,
      deed: found.part,
      values: Object.fromEntries(kinds.map(([name, kind]) => [name, firstValue(kind)])),
    }
  },
  say: (b) => [`${b.thing}: ${b.deed}`],
  settings: [BeatThing],
} satisfies BeatKind
