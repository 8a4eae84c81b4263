<script setup lang="ts">
/** A code for pairing one device: valid once, for two minutes, covered until it is revealed. */
import { useIntervalFn } from '@vueuse/core'
import { ElDialog } from 'element-plus'
import { computed, ref, shallowRef } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useLive } from '@/composables/useLive'
import { covered } from '@/composables/useLook'
import { attempt, say } from '@/composables/useSay'
import { sayLeft } from '@/logic/duration'

const props = defineProps<{ here: boolean }>()
const emit = defineEmits<{ close: [] }>()

const live = useLive()
const open = ref(true)
const name = ref(props.here ? 'Second screen' : 'Phone')
const offer = shallowRef<Schemas['OfferOut'] | null>(null)
const state = ref('')
const now = ref(Date.now())
const shown = ref(!covered.value)
const left = computed(() => (offer.value ? Math.max(0, offer.value.ends - now.value) : 0))
const device = ref('')
const pairedAs = computed(
  () => live.state?.pads.devices.find((one) => one.id === device.value)?.name ?? name.value,
)

async function make(): Promise<void> {
  const body = { name: name.value || 'Phone', cues: null, here: props.here }
  offer.value = await got(api.POST('/api/pads/offers', { body }))
  state.value = 'waits'
  if (!props.here) return
  window.open(offer.value.link, '_blank', 'noopener')
}

async function look(): Promise<void> {
  now.value = Date.now()
  if (!offer.value || state.value !== 'waits') return
  const path = { offer_id: offer.value.id }
  const told = await got(api.GET('/api/pads/offers/{offer_id}', { params: { path } }))
  state.value = told.state
  device.value = told.device
}

async function copy(): Promise<void> {
  await navigator.clipboard.writeText(offer.value?.link ?? '')
  say('The link is on the clipboard; it is good once.', 'fine')
}

async function close(): Promise<void> {
  open.value = false
  emit('close')
  if (!offer.value || state.value !== 'waits') return
  const path = { offer_id: offer.value.id }
  await got(api.DELETE('/api/pads/offers/{offer_id}', { params: { path } }))
}

useIntervalFn(() => void attempt(look), 700)
</script>

<template>
  <ElDialog v-model="open" title="Pair a device" width="440" append-to="#over" @closed="attempt(close)">
    <form v-if="!offer" class="step" @submit.prevent="attempt(make)">
      <label class="step">
        <span>Device name</span>
        <input v-model="name" class="well" maxlength="50" data-test="device-name" />
      </label>
      <button class="btn main" data-test="make-code">
        {{ here ? 'Open the pads in a new window' : 'Show code' }}
      </button>
    </form>
    <div v-else-if="state === 'waits'" class="step" role="status">
      <template v-if="!here">
        <img v-if="shown" class="code" :src="offer.code" alt="Pairing code" />
        <button v-else class="code covered" @click="shown = true">
          The code is covered. Show it only where viewers can’t see it.
        </button>
      </template>
      <p>
        {{ here ? 'The pads open in a new window.' : 'Scan it with the device’s camera.' }} Valid once, for
        <strong>{{ sayLeft(left) }}</strong>.
      </p>
      <button class="btn" data-test="copy-offer" @click="attempt(copy)">Copy link instead</button>
    </div>
    <div v-else-if="state === 'paired'" class="step" data-test="paired">
      <p class="far">{{ pairedAs }} is paired.</p>
      <p class="soft">Limit, rename or revoke it in the list at any time.</p>
      <button class="btn main" @click="attempt(close)">Done</button>
    </div>
    <div v-else class="step">
      <p>The code expired. No device used it.</p>
      <button class="btn main" @click="attempt(make)">New code</button>
    </div>
  </ElDialog>
</template>

<style scoped>
.step {
  display: grid;
  gap: 12px;
  justify-items: start;
}

form,
label.step {
  justify-items: stretch;
}

p {
  margin: 0;
}

.code {
  width: 300px;
  height: 300px;
  justify-self: center;
  border-radius: var(--corner);
  background: #fff;
}

.covered {
  padding: 40px;
  background: var(--raised);
  border: 2px dashed var(--line);
  cursor: pointer;
}
</style>
