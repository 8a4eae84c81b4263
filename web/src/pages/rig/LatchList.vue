<script setup lang="ts">
/** The latched keys, and the state each was left in. One that was pressed by hand is put right with one click; one that may have been
 * pressed or not, without an answer, is settled by somebody who can see it. */
import { computed } from 'vue'
import { api, got } from '@/api/client'
import { useGear, type GearState } from '@/composables/useGear'
import { attempt } from '@/composables/useSay'
import KeyCaps from '@/parts/gear/KeyCaps.vue'

const props = defineProps<{ gear: GearState }>()
const all = useGear()
const latches = computed(() => props.gear.properties.filter((p) => p.path.startsWith('keys/')))

async function correct(path: string, value: string): Promise<void> {
  await attempt(async () => {
    const params = { path: { gear_id: props.gear.id } }
    await got(api.POST('/api/gear/{gear_id}/hand', { params, body: { path, value } }))
    await all.load()
  })
}

/** It is off afterwards, pressed once more or left alone. */
async function settle(path: string, press: boolean): Promise<void> {
  await attempt(async () => {
    const params = { path: { gear_id: props.gear.id } }
    await got(api.POST('/api/gear/{gear_id}/latch', { params, body: { path, press } }))
    await all.load()
  })
}
</script>

<template>
  <ul v-if="latches.length">
    <li v-for="one in latches" :key="one.path" class="row">
      <KeyCaps :combo="one.path.slice(5)" :on="one.actual === 'on'" />
      <template v-if="one.actual === 'doubt'">
        <strong class="doubt">may be on; press once if it is</strong>
        <span class="grow"></span>
        <button
          class="btn tiny main"
          :data-test="`press-${one.path.slice(5)}`"
          @click="settle(one.path, true)"
        >
          It’s on: press once
        </button>
        <button class="btn tiny" :data-test="`leave-${one.path.slice(5)}`" @click="settle(one.path, false)">
          It’s off
        </button>
      </template>
      <span v-else>last known: {{ one.actual }}</span>
      <span class="grow"></span>
      <button
        v-if="one.actual !== 'doubt'"
        class="btn tiny"
        :data-test="`correct-${one.path.slice(5)}`"
        title="Corrects the record; nothing is pressed"
        @click="correct(one.path, one.actual === 'on' ? 'off' : 'on')"
      >
        Set it to {{ one.actual === 'on' ? 'off' : 'on' }}
      </button>
    </li>
  </ul>
  <p v-else class="soft small none">Key combinations latched by cues are listed here, with their state.</p>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}

.doubt {
  color: var(--berry);
}

.none {
  margin: 0;
}
</style>
