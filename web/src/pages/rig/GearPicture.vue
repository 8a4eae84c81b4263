<script setup lang="ts">
/** What a piece of gear shows now, as a picture. */
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import { useGear, type GearState } from '@/composables/useGear'
import AvatarPicture from '@/parts/gear/AvatarPicture.vue'
import ChannelPicture from '@/parts/gear/ChannelPicture.vue'
import KeyCaps from '@/parts/gear/KeyCaps.vue'
import LampsPicture from '@/parts/gear/LampsPicture.vue'
import ThingsPicture from '@/parts/gear/ThingsPicture.vue'
import VoicePicture from '@/parts/gear/VoicePicture.vue'
import WearablePicture from '@/parts/gear/WearablePicture.vue'
import { lastOf, pathOf } from '@/logic/paths'

const props = defineProps<{ gear: GearState; away: boolean; serial: number }>()
const book = useBook()
const all = useGear()
const entry = computed(() => book.book?.gear.find((g) => g.id === props.gear.id))
const actual = (path: string): string =>
  String(props.gear.properties.find((p) => p.path === path)?.actual ?? '')
const lamps = computed(() =>
  (entry.value?.fixtures ?? []).map((lamp) => ({
    id: lamp.id,
    name: lamp.name || lamp.id,
    shown: `color-mix(in srgb-linear, ${actual(pathOf('light', lamp.id, 'colour')) || '#000'} ${Math.round(Number(actual(pathOf('light', lamp.id, 'level'))) * 100)}%, #0c1412)`,
  })),
)
const faces = computed(() =>
  props.gear.properties
    .filter((p) => p.path.startsWith('avatar/expression/') && p.actual === 'on')
    .map((p) => lastOf(p.path)),
)
const latches = computed(() => props.gear.properties.filter((p) => p.path.startsWith('keys/')))
const worn = computed(() => all.catalogue.haptics)
</script>

<template>
  <div v-if="away" class="picture none soft small">Disconnected.</div>
  <img
    v-else-if="gear.kind === 'broadcaster'"
    :src="`/api/gear/${gear.id}/picture?n=${serial}`"
    alt="Current state"
    class="picture"
  />
  <div v-else class="picture" :class="gear.kind">
    <ChannelPicture v-if="gear.kind === 'channel'" :channel="gear.id" />
    <LampsPicture v-else-if="gear.kind === 'lights'" :lamps="lamps" />
    <AvatarPicture
      v-else-if="gear.kind === 'avatar'"
      class="whole"
      :model="actual('avatar/model')"
      :outfit="actual('avatar/outfit')"
      :pose="actual('avatar/pose')"
      :expressions="faces"
    />
    <VoicePicture
      v-else-if="gear.kind === 'voice'"
      class="whole"
      :preset="actual('voice/preset')"
      :pitch="Number(actual('voice/pitch'))"
      :mix="Number(actual('voice/mix'))"
    />
    <WearablePicture
      v-else-if="gear.kind === 'haptics' && worn?.touches.length"
      :pads="worn.touches"
      :outlines="worn.outlines"
      :levels="[]"
    />
    <p v-else-if="gear.kind === 'haptics'" class="none soft small">No pads known yet.</p>
    <div v-else-if="gear.kind === 'keys'" class="keys">
      <KeyCaps v-for="one in latches" :key="one.path" :combo="one.path.slice(5)" :on="one.actual === 'on'" />
      <span v-if="!latches.length" class="soft small">No latched keys.</span>
    </div>
    <ThingsPicture v-else-if="all.kindOf(gear.kind).mark === 'things'" class="whole" :gear="gear" />
    <p v-else class="none soft small">Hooks are sent from here.</p>
  </div>
</template>

<style scoped>
.picture {
  display: block;
  width: 100%;
  aspect-ratio: 16 / 9;
  border-radius: 6px;
  background: var(--ground);
  overflow: hidden;
}

.avatar {
  background: var(--raised);
}

.none {
  display: grid;
  place-items: center;
  height: 100%;
  margin: 0;
}

.whole {
  width: 100%;
  height: 100%;
}

.keys {
  display: grid;
  gap: 8px;
  place-content: center;
  height: 100%;
}
</style>
