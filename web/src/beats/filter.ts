import { sayValue } from '@/logic/words'
import BeatBroadcast from '@/pages/cue/settings/BeatBroadcast.vue'
import { FIVE, type BeatKind } from './kind'

export default {
  name: 'Filter',
  offered: 'at once',
  fresh: (around) => {
    const filters = around.catalogue.broadcaster?.filters ?? {}
    const source = Object.keys(filters)[0] ?? 'Source'
    const filter = Object.keys(filters[source] ?? {})[0] ?? 'Filter'
    return { sources: [source], filter, setting: 'on', value: true, ...FIVE }
  },
  say: (b) => [`${b.filter}${b.setting === 'on' ? '' : ` ${b.setting}`}: ${sayValue(b.value)}`],
  settings: [BeatBroadcast],
} satisfies BeatKind
