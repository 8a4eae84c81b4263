<script setup lang="ts">
/** Incoming OSC: address patterns of a control surface or a phone app, and what each does. */
import { ElOption, ElSwitch } from 'element-plus'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { freeId } from '@/logic/ids'
import { cueChoices } from '@/logic/choices'
import { MARKS, type Output } from '@/parts/marks'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'

type Inlet = Schemas['Inlet']
const DOES: Record<Inlet['does'], string> = {
  call: 'calls the cues tied to it',
  pad: 'fires a cue',
  rest: 'all to rest',
  house: 'open and close',
  volume: 'volume',
}
const PORT = 8720
const book = useBook()
const all = computed(() => book.book?.inlets ?? [])
const inlets = computed(() => all.value.filter((one) => one.kind === 'osc'))
const house = computed(() => book.book?.house)
const cues = computed(() => cueChoices(book.book?.cues ?? [], book.mediaById, []))
const far = computed(() => inlets.value.some((one) => one.senders.length > 0))
const outputs = Object.entries(MARKS) as [Output, { name: string }][]

function add(): void {
  const id = freeId('osc', new Set(all.value.map((one) => one.id)))
  void attempt(async () => {
    if (house.value && house.value.osc_port === null) await book.putHouse({ osc_port: PORT })
    await book.put('inlets', {
      id,
      kind: 'osc',
      name: `Remote ${inlets.value.length + 1}`,
      address: `/pad/${inlets.value.length + 1}`,
      does: 'call',
    })
  })
}

function set(inlet: Inlet, fields: Partial<Inlet>): void {
  void attempt(() => book.put('inlets', { ...inlet, ...fields }))
}

function setDoes(inlet: Inlet, does: Inlet['does']): void {
  set(inlet, { does, cue: does === 'pad' ? (inlet.cue ?? book.book?.cues[0]?.id ?? null) : null, switch: '' })
}

const valueOf = (event: Event): string => (event.target as HTMLInputElement).value.trim()
</script>

<template>
  <section class="card osc">
    <div class="row">
      <h2>Remotes (OSC)</h2>
      <label v-if="house?.osc_port" class="row small"
        >UDP port<NumberField
          class="slim"
          :least="1024"
          :most="65535"
          :model-value="house.osc_port"
          narrow
          whole
          @update:model-value="attempt(() => book.putHouse({ osc_port: $event }))"
      /></label>
      <span class="grow"></span>
      <button class="btn tiny" data-test="add-osc" @click="add">New remote</button>
    </div>
    <p class="soft small none">
      Any control surface or phone app that sends Open Sound Control. Addresses can be patterns:
      <code>/pad/*</code>, <code>/{red,blue}/on</code>. A first argument of 0 releases the press.
      {{ far ? 'Listens on the network, to the named senders.' : 'Listens on this computer only.' }}
    </p>
    <div v-for="inlet in inlets" :key="inlet.id" class="remote" :data-inlet="inlet.id">
      <input
        class="well"
        :value="inlet.name"
        aria-label="Remote name"
        @change="set(inlet, { name: valueOf($event) || inlet.name })"
      />
      <input
        class="well"
        :value="inlet.address"
        aria-label="OSC address"
        placeholder="/pad/1"
        data-test="osc-address"
        @change="set(inlet, { address: valueOf($event) })"
      />
      <PickField
        :model-value="inlet.does"
        aria-label="Action"
        data-test="osc-does"
        @update:model-value="setDoes(inlet, $event)"
      >
        <ElOption v-for="(words, does) in DOES" :key="does" :value="does" :label="words" />
      </PickField>
      <PickField
        v-if="inlet.does === 'pad'"
        :model-value="inlet.cue ?? ''"
        :choices="cues"
        aria-label="Cue"
        @update:model-value="set(inlet, { cue: String($event) })"
      />
      <PickField
        v-else-if="inlet.does === 'house'"
        :model-value="inlet.switch"
        aria-label="Switch"
        @update:model-value="set(inlet, { switch: $event })"
      >
        <ElOption value="" label="the house" />
        <ElOption v-for="[name, mark] in outputs" :key="name" :value="name" :label="mark.name" />
      </PickField>
      <span v-else></span>
      <input
        class="well"
        :value="inlet.senders.join(', ')"
        aria-label="Allowed senders"
        placeholder="this computer"
        @change="
          set(inlet, {
            senders: valueOf($event)
              .split(/[\s,;]+/)
              .filter(Boolean),
          })
        "
      />
      <ElSwitch
        :model-value="inlet.on"
        aria-label="On"
        @update:model-value="set(inlet, { on: Boolean($event) })"
      />
      <button
        class="btn tiny danger"
        :aria-label="`Remove ${inlet.name}`"
        @click="attempt(() => book.remove('inlets', inlet.id))"
      >
        Remove
      </button>
    </div>
  </section>
</template>

<style scoped>
.osc {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 10px;
}

.remote {
  display: grid;
  grid-template-columns: 1.1fr 1fr 1.4fr 1.4fr 1fr auto auto;
  gap: 8px;
  align-items: center;
  border-top: 1px solid var(--line);
  padding-top: 8px;
}

.slim {
  width: 90px;
}

.none {
  margin: 0;
}

@media (max-width: 1120px) {
  .remote {
    grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  }
}
</style>
