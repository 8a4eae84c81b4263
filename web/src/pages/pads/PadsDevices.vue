<script setup lang="ts">
/** Devices with pads: where they connect, and which are paired, named, limited, locked, revoked. */
import { ElPopconfirm, ElSelect } from 'element-plus'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive, type Device } from '@/composables/useLive'
import { attempt, say } from '@/composables/useSay'
import AllowFrom from '@/parts/AllowFrom.vue'
import DeviceRow from '@/parts/DeviceRow.vue'
import PickOption from '@/parts/PickOption.vue'
import PairDialog from './PairDialog.vue'

const live = useLive()
const book = useBook()
const where = shallowRef<Schemas['PadsOut'] | null>(null)
const pairing = ref<'beyond' | 'here' | null>(null)
const devices = computed(() => live.state?.pads.devices ?? [])
const cues = computed(() => (book.book?.cues ?? []).map((cue) => ({ value: cue.id, name: cue.name })))

async function load(): Promise<void> {
  where.value = await got(api.GET('/api/pads'))
}

async function listen(address: string): Promise<void> {
  where.value = await got(api.PUT('/api/pads/beyond', { body: { address } }))
  say(
    address ? `Paired devices connect at ${where.value.link}` : 'Pads now work on this computer only.',
    'fine',
  )
  // The address becomes active a moment later.
  setTimeout(() => void attempt(load), 800)
}

async function limit(device: Device, cues: string[]): Promise<void> {
  const body = { name: device.name, cues: cues.length ? cues : null }
  await got(api.PUT('/api/pads/devices/{device_id}', { params: { path: { device_id: device.id } }, body }))
}

async function revoke(device: Device): Promise<void> {
  await got(api.DELETE('/api/pads/devices/{device_id}', { params: { path: { device_id: device.id } } }))
  say(`${device.name} has been revoked.`, 'fine')
}

onMounted(() => void attempt(load))
</script>

<template>
  <section class="card devices" aria-label="Devices">
    <div class="card-title">
      <h2 class="grow">Phones and second screens</h2>
    </div>
    <template v-if="where">
      <AllowFrom :where="where" :listen="listen" data-test="beyond" />
      <p v-if="where.beyond" class="soft small">
        Others on this network can see that something is here, but only paired devices can use it.
        {{ where.listens ? '' : 'Not listening there yet.' }}
        {{
          where.secure
            ? ''
            : 'Without your own certificate, whoever controls the network could alter the page.'
        }}
      </p>
      <div class="row">
        <button
          class="btn main"
          data-test="pair"
          :disabled="!where.beyond"
          :title="where.beyond ? '' : 'First choose where devices connect'"
          @click="pairing = 'beyond'"
        >
          Pair a device
        </button>
        <button class="btn" data-test="pair-here" @click="pairing = 'here'">On this computer</button>
      </div>
      <p v-if="!where.beyond" class="soft small">To pair a phone, first choose the network address above.</p>
    </template>
    <ul v-if="devices.length">
      <li v-for="device in devices" :key="device.id" :data-device="device.id">
        <DeviceRow :device="device">
          <ElPopconfirm
            :persistent="false"
            :title="`Revoke ${device.name}?`"
            width="220"
            @confirm="attempt(() => revoke(device))"
          >
            <template #reference><button class="btn tiny">Revoke</button></template>
          </ElPopconfirm>
        </DeviceRow>
        <ElSelect
          :model-value="device.cues ?? []"
          multiple
          filterable
          collapse-tags
          collapse-tags-tooltip
          placeholder="all pads"
          :aria-label="`What ${device.name} may press`"
          @update:model-value="attempt(() => limit(device, $event))"
        >
          <PickOption v-for="cue in cues" :key="cue.value" :choice="cue" />
        </ElSelect>
      </li>
    </ul>
    <p v-else class="soft small">No paired devices yet.</p>
    <PairDialog v-if="pairing" :here="pairing === 'here'" @close="pairing = null" />
  </section>
</template>

<style scoped>
.devices {
  display: grid;
  gap: 10px;
}

.card-title,
p {
  margin: 0;
}

ul {
  display: grid;
  gap: 12px;
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  gap: 4px;
  padding-top: 10px;
  border-top: 1px solid var(--line);
}
</style>
