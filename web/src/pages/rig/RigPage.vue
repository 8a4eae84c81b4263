<script setup lang="ts">
/** The rig: everything that Cue Jar controls or shows on. */
import { computed, ref } from 'vue'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { useGear, type GearKind } from '@/composables/useGear'
import { comeTo } from '@/composables/comeTo'
import { freeId } from '@/logic/ids'
import ComputerCard from './ComputerCard.vue'
import HouseCard from './HouseCard.vue'
import GearCard from './GearCard.vue'
import InletsCard from './InletsCard.vue'
import OscCard from './OscCard.vue'
import LooksCard from './LooksCard.vue'
import OverlayCard from './OverlayCard.vue'
import OverlaysBeyond from './OverlaysBeyond.vue'
import WatchCard from './WatchCard.vue'
import WireLogs from './WireLogs.vue'

const book = useBook()
const all = useGear()
/** There may be several pieces of some gear; of the rest one. */
const addable = computed(() =>
  all.kinds.filter((kind) => kind.many || !book.book?.gear.some((g) => g.kind === kind.name)),
)

async function addGear(kind: GearKind): Promise<void> {
  const id = freeId(kind.name, new Set(book.book?.gear.map((g) => g.id)))
  await attempt(async () => {
    await book.put('gear', { id, kind: kind.name, name: kind.title })
    await all.load()
    await comeTo(`[data-gear="${id}"]`)
  })
}

/** What links for other computers begin with; empty: there are none. */
const begins = ref('')
const overlays = computed(() => book.book?.overlays ?? [])

async function addOverlay(): Promise<void> {
  const id = freeId('overlay', new Set(overlays.value.map((o) => o.id)))
  await attempt(async () => {
    await book.put('overlays', { id, name: `Overlay ${overlays.value.length + 1}` })
    await comeTo(`[data-overlay="${id}"]`)
  })
}
</script>

<template>
  <div class="rig">
    <div class="row">
      <h1>Rig</h1>
      <span class="grow"></span>
      <button
        v-for="kind in addable"
        :key="kind.name"
        class="btn"
        :data-test="`add-${kind.name}`"
        @click="addGear(kind)"
      >
        Add {{ kind.title.toLowerCase() }}
      </button>
      <button class="btn" data-test="add-overlay" @click="addOverlay">New overlay</button>
    </div>
    <WatchCard />
    <WireLogs />
    <div class="shelf">
      <GearCard v-for="gear in all.gear" :key="gear.id" :gear="gear" />
    </div>
    <p v-if="!all.gear.length" class="soft">
      No gear yet. Add what Cue Jar should control; it always returns by itself.
    </p>
    <InletsCard />
    <OscCard />
    <LooksCard />
    <h2>Overlays</h2>
    <p class="soft small none">
      Put the link of an overlay into your broadcasting program as a page. Whoever has a link can see it. With
      <code>?check</code> at its end, the page shows its status.
    </p>
    <OverlaysBeyond @begins="begins = $event" />
    <div class="cards">
      <OverlayCard v-for="overlay in overlays" :key="overlay.id" :overlay="overlay" :begins="begins" />
    </div>
    <HouseCard />
    <ComputerCard />
    <p v-if="!overlays.length" class="soft">
      Without an overlay, nothing can be seen or heard. Add one above.
    </p>
  </div>
</template>

<style scoped>
.rig {
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr);
  width: 100%;
  max-width: 1240px;
  margin: 0 auto;
}

/* A card that unfolds takes a row of its own; the next ones close up before it. */
.shelf {
  display: grid;
  grid-auto-flow: dense;
  grid-template-columns: repeat(auto-fill, minmax(min(380px, 100%), 1fr));
  gap: 12px;
}

.cards {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(520px, 100%), 1fr));
  gap: 12px;
}

.none {
  margin: 0;
}
</style>
