<script setup lang="ts">
import { useLocalStorage, useMediaQuery } from '@vueuse/core'
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import PadButton from '@/parts/pads/PadButton.vue'
import PadsFoot from './PadsFoot.vue'
import PadsMore from './PadsMore.vue'
import PadsNotIn from './PadsNotIn.vue'
import { useMidi } from './midi'
import { usePads } from './usePads'

const PadsDesk = defineAsyncComponent(() => import('./PadsDesk.vue'))
const { state, paired, pads, house, rows, now, said, desk, arrivals, ask } = usePads()
const page = useLocalStorage('pads-page', '')
const more = ref(false)

const isIn = computed(() => state.value.is === 'in')
/** As last heard: nothing changes while the connection is lost. */
const limited = ref(false)
watch(state, (is) => is.is === 'in' && (limited.value = is.limited), { immediate: true })
const tags = computed(() => [...new Set(pads.value.flatMap((pad) => pad.tags))])
const shown = computed(() => {
  const tag = tags.value.includes(page.value) ? page.value : ''
  return pads.value.filter((pad) => !tag || pad.tags.includes(tag))
})
/** Known pads stay, so that nothing jumps while the connection is lost. */
const known = computed(
  () => house.value !== null && (isIn.value || ['away', 'connecting'].includes(state.value.is)),
)

/** On a tablet the desk is beside the pads, on a phone in their place. */
const wide = useMediaQuery('(min-width: 900px)')
const wanted = useLocalStorage<'' | 'yes' | 'no'>('pads-desk', '')
const showsDesk = computed(
  () => known.value && !limited.value && (wanted.value === '' ? wide.value : wanted.value === 'yes'),
)
watch([isIn, showsDesk], ([there, on], [wasThere]) => {
  if (there && !limited.value && (on || wasThere)) void ask({ do: 'desk', on })
})

const midi = useMidi((does, heard) => {
  if ('volume' in does) void ask({ do: 'volume', value: Math.round(heard.value * 100) })
  else if ('rest' in does) {
    if (heard.down) void ask({ do: 'rest' })
  } else if (heard.down) void ask({ do: 'press', cue: does.pad })
  else if (pads.value.find((pad) => pad.cue === does.pad)?.holds) void ask({ do: 'let_go', cue: does.pad })
})

function pressed(cue: string): void {
  if (midi.learning.value && 'pad' in midi.learning.value) midi.learning.value = { pad: cue }
  else void ask({ do: 'press', cue })
}
</script>

<template>
  <div class="frame">
    <header class="bar row">
      <h1>Pads</h1>
      <i class="lamp" :class="{ in: isIn }"></i>
      <span class="grow soft small cut-off">{{
        state.is === 'in' ? state.name : known ? 'not connected' : ''
      }}</span>
      <span v-if="house?.listens" class="small listens">Listening</span>
      <span v-if="house" class="small" :class="house.on_air ? 'air' : 'soft'">{{
        house.on_air ? 'On air' : 'Off air'
      }}</span>
      <button
        v-if="known && !limited"
        class="btn bare"
        :aria-pressed="showsDesk"
        data-test="show-desk"
        @click="wanted = showsDesk ? 'no' : 'yes'"
      >
        {{ showsDesk ? 'Hide desk' : 'Show desk' }}
      </button>
      <button v-if="known" class="btn bare" :aria-expanded="more" @click="more = !more">More</button>
    </header>
    <p v-if="known && !isIn" class="gone" role="status">
      No connection to Cue Jar. Presses are ignored until it reconnects.
    </p>
    <p v-else-if="known && house && !house.open" class="gone" role="status">
      The house is closed. Pads work again when it opens.
    </p>
    <nav v-if="known && tags.length > 1 && (wide || !showsDesk)" class="pages" aria-label="Pages of pads">
      <button
        v-for="tag in ['', ...tags]"
        :key="tag"
        class="tab"
        :aria-pressed="(tags.includes(page) ? page : '') === tag"
        @click="page = tag"
      >
        {{ tag || 'All' }}
      </button>
    </nav>
    <PadsMore v-if="known && more" :midi="midi" />
    <div v-if="known" class="both">
      <main v-if="wide || !showsDesk" class="pads">
        <PadButton
          v-for="pad in shown"
          :key="pad.cue"
          :name="pad.name"
          :face="pad.face"
          :holds="pad.holds"
          :row="rows.get(pad.cue)"
          :now="now"
          :disabled="!isIn"
          :data-pad="pad.cue"
          @press="pressed(pad.cue)"
          @let-go="ask({ do: 'let_go', cue: pad.cue })"
        />
        <p v-if="!shown.length" class="soft">
          No pads for this device. Every cue that is switched on has one.
        </p>
      </main>
      <PadsDesk v-if="showsDesk" :desk="desk" :arrivals="arrivals" :now="now" :disabled="!isIn" @ask="ask" />
    </div>
    <PadsNotIn v-else :state="state" :paired="paired" />
    <p class="said" role="alert">{{ said }}</p>
    <PadsFoot v-if="known && house && !limited" :house="house" :disabled="!isIn" @ask="ask" />
  </div>
</template>

<style scoped>
.frame {
  display: flex;
  flex-direction: column;
  height: 100dvh;
  padding: env(safe-area-inset-top) env(safe-area-inset-right) env(safe-area-inset-bottom)
    env(safe-area-inset-left);
}

.bar {
  flex-wrap: nowrap;
  padding: 8px 14px;
  background: var(--surface);
  border-bottom: 2px solid var(--line);
}

h1 {
  font-size: 20px;
}

.lamp {
  width: 12px;
  height: 12px;
  flex: none;
  border-radius: 50%;
  background: var(--berry);
}

.lamp.in {
  background: var(--mint);
}

.listens {
  padding: 0 10px;
  border-radius: 10px;
  background: var(--berry);
  color: var(--ground);
}

.air {
  color: var(--mint);
  font-weight: 700;
}

.gone {
  margin: 0;
  padding: 8px 14px;
  background: var(--berry);
  color: var(--ground);
  font-weight: 700;
}

.pages {
  display: flex;
  gap: 6px;
  padding: 8px 12px 0;
  overflow-x: auto;
}

.tab {
  flex: none;
  min-height: 44px;
  padding: 4px 16px;
  background: none;
  border: 0;
  border-bottom: 3px solid transparent;
  color: var(--soft);
  font-weight: 700;
}

.tab[aria-pressed='true'] {
  color: var(--ink);
  border-bottom-color: var(--marmalade);
}

.both {
  flex: 1;
  display: flex;
  min-height: 0;
}

.pads {
  flex: 1;
  min-width: 0;
  min-height: 0;
  overflow-y: auto;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(168px, 45%), 1fr));
  grid-auto-rows: minmax(104px, max-content);
  grid-auto-flow: dense;
  align-content: start;
  gap: 10px;
  padding: 12px;
  --pad-height: 104px;
  --pad-font: 19px;
  --pad-lines: 3;
}

.pads > p {
  grid-column: 1 / -1;
}

.said {
  margin: 0;
  padding: 0 14px;
  color: var(--berry);
  font-weight: 700;
}

.said:not(:empty) {
  padding-block: 8px;
}
</style>
