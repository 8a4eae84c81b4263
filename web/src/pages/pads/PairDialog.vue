<script setup lang="ts">
/** A code for pairing one device: valid once, for two minutes, covered until it is revealed. */
import { ElDialog } from 'element-plus'
import { computed, ref } from 'vue'
import { useLive } from '@/composables/useLive'
import { covered } from '@/composables/useLook'
import { usePairing } from '@/composables/usePairing'
import { attempt, say } from '@/composables/useSay'
import { sayLeft } from '@/logic/duration'

const props = defineProps<{ here: boolean }>()
const emit = defineEmits<{ close: [] }>()

const live = useLive()
const open = ref(true)
const name = ref(props.here ? 'Second screen' : 'Phone')
const shown = ref(!covered.value)
const { offer, state, device, left, make, withdraw } = usePairing()
const pairedAs = computed(
  () => live.state?.pads.devices.find((one) => one.id === device.value)?.name ?? name.value,
)

async function offerOne(): Promise<void> {
  await make({ name: name.value || 'Phone', cues: null, here: props.here, does: 'pads' })
  if (props.here && offer.value) window.open(offer.value.link, '_blank', 'noopener')
}

async function copy(): Promise<void> {
  await navigator.clipboard.writeText(offer.value?.link ?? '')
  say('The link is on the clipboard; it is good once.', 'fine')
}

async function close(): Promise<void> {
  open.value = false
  emit('close')
  await withdraw()
}
</script>

<template>
  <ElDialog v-model="open" title="Pair a device" width="440" append-to="#over" @closed="attempt(close)">
    <form v-if="!offer" class="step" @submit.prevent="attempt(offerOne)">
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
      <button class="btn main" @click="attempt(offerOne)">New code</button>
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
