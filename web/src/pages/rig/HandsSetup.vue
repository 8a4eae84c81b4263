<script setup lang="ts">
/** Keys on another computer, such as the one with the game: pairing it by a code, and the paired one. */
import { ElPopconfirm } from 'element-plus'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useLive } from '@/composables/useLive'
import { covered } from '@/composables/useLook'
import { usePairing } from '@/composables/usePairing'
import { attempt, say } from '@/composables/useSay'
import { sayLeft } from '@/logic/duration'
import AllowFrom from '@/parts/AllowFrom.vue'
import DeviceRow from '@/parts/DeviceRow.vue'

const HANDS = 'hands:'
const props = defineProps<{ address: string }>()
const emit = defineEmits<{ set: [fields: { address: string }] }>()
const live = useLive()
const where = shallowRef<Schemas['PadsOut'] | null>(null)
const uncovered = ref(!covered.value)
const hands = computed(() => live.state?.pads.hands ?? null)
const used = computed(() => props.address === HANDS)
const { offer, state, left, make, withdraw } = usePairing(() => {
  emit('set', { address: HANDS })
  say('Paired. Keys are now pressed there.', 'fine')
})

async function listen(address: string): Promise<void> {
  where.value = await got(api.PUT('/api/pads/beyond', { body: { address } }))
}

async function pair(): Promise<void> {
  await make({ name: 'Game computer', cues: null, here: false, does: 'hands' })
}

async function copy(): Promise<void> {
  await navigator.clipboard.writeText(offer.value?.link ?? '')
  say('The command is on the clipboard; its code is good once.', 'fine')
}

async function remove(id: string): Promise<void> {
  await got(api.DELETE('/api/pads/devices/{device_id}', { params: { path: { device_id: id } } }))
  if (used.value) emit('set', { address: '' })
}

onMounted(() => void attempt(async () => (where.value = await got(api.GET('/api/pads')))))
onBeforeUnmount(() => void withdraw())
</script>

<template>
  <section v-if="where" class="hands" aria-label="Keys on another computer" data-test="hands">
    <h3>Keys on another computer</h3>
    <template v-if="hands">
      <DeviceRow :device="hands">
        <ElPopconfirm
          :persistent="false"
          :title="`Remove ${hands.name}?`"
          confirm-button-text="Remove"
          cancel-button-text="Cancel"
          width="260"
          @confirm="attempt(() => remove(hands!.id))"
        >
          <template #reference><button class="btn tiny" data-test="remove-hands">Remove</button></template>
        </ElPopconfirm>
      </DeviceRow>
      <p v-if="!hands.connected" class="soft small">
        Start <code>cuejar hands</code> on that computer; it connects by itself.
      </p>
      <template v-if="!where.beyond && !hands.connected">
        <p class="small">Nobody may connect from the network now. Choose where that computer connects:</p>
        <AllowFrom :where="where" :listen="listen" data-test="hands-beyond" />
      </template>
      <div v-if="!used" class="row">
        <button class="btn" data-test="use-hands" @click="emit('set', { address: HANDS })">
          Press keys there
        </button>
      </div>
    </template>
    <template v-else-if="offer && state === 'waits'">
      <p class="small">On the other computer, with Cue Jar installed there, run:</p>
      <div class="row">
        <code v-if="uncovered" class="well command" data-test="hands-command">{{ offer.link }}</code>
        <button v-else class="btn" @click="uncovered = true">
          Show the command where viewers can’t see it
        </button>
        <button class="btn tiny" @click="attempt(copy)">Copy</button>
      </div>
      <p class="soft small" role="status">
        Valid once, for <strong>{{ sayLeft(left) }}</strong>.
      </p>
    </template>
    <template v-else>
      <p v-if="state === 'over'" class="small">The code expired. No computer used it.</p>
      <p class="soft small">
        Is the game on another computer? Choose where it connects, and cues can press keys there. Paired
        phones use the same address.
      </p>
      <AllowFrom :where="where" :listen="listen" data-test="hands-beyond" />
      <div class="row">
        <button class="btn" data-test="pair-hands" :disabled="!where.beyond" @click="attempt(pair)">
          Press keys on another computer
        </button>
      </div>
    </template>
  </section>
</template>

<style scoped>
.hands {
  display: grid;
  gap: 8px;
  padding-top: 10px;
  border-top: 1px solid var(--line);
}

h3,
p {
  margin: 0;
}

h3 {
  font-size: 15px;
}

.command {
  user-select: all;
  overflow-wrap: anywhere;
}
</style>
