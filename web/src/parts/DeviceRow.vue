<script setup lang="ts">
/** A paired device: whether it is connected, its name, and what can be done with it. */
import { computed } from 'vue'
import { api, got } from '@/api/client'
import { useLive, type Device } from '@/composables/useLive'
import { attempt } from '@/composables/useSay'

const props = defineProps<{ device: Device }>()
const live = useLive()
const path = computed(() => ({ device_id: props.device.id }))

async function rename(name: string): Promise<void> {
  const body = { name, cues: props.device.cues }
  await got(api.PUT('/api/pads/devices/{device_id}', { params: { path: path.value }, body }))
}

async function unlock(): Promise<void> {
  await got(api.POST('/api/pads/devices/{device_id}/unlock', { params: { path: path.value } }))
}

const seen = computed(() => {
  const device = props.device
  if (device.locked) return 'locked after too many wrong signatures'
  if (device.connected) return device.connected > 1 ? `connected ${device.connected} times` : 'connected'
  const at = new Date(device.seen)
  const today = at.toDateString() === new Date(live.now).toDateString()
  const told = at.toLocaleString(
    undefined,
    today ? { timeStyle: 'short' } : { dateStyle: 'medium', timeStyle: 'short' },
  )
  return `seen ${told}`
})
</script>

<template>
  <div class="row top">
    <i class="lamp" :class="{ here: device.connected, locked: device.locked }"></i>
    <input
      class="well grow"
      :value="device.name"
      maxlength="50"
      aria-label="Device name"
      @change="attempt(() => rename(($event.target as HTMLInputElement).value))"
    />
    <button v-if="device.locked" class="btn tiny main" @click="attempt(unlock)">Unlock</button>
    <slot />
  </div>
  <span class="soft small"
    >{{ seen }}{{ device.wrong && !device.locked ? `, ${device.wrong} recent wrong signatures` : '' }}</span
  >
</template>

<style scoped>
.top {
  flex-wrap: nowrap;
}

.lamp {
  width: 12px;
  height: 12px;
  flex: none;
  border-radius: 50%;
  border: 2px solid var(--soft);
}

.lamp.here {
  border-color: var(--mint);
  background: var(--mint);
}

.lamp.locked {
  border-color: var(--berry);
  background: var(--berry);
}
</style>
