<script setup lang="ts">
/** Inlets: named addresses for incoming hooks, each with its own key. */
import { ElPopconfirm, ElSwitch } from 'element-plus'
import { computed, ref } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'
import { comeTo } from '@/composables/comeTo'
import { freeId } from '@/logic/ids'
import { curlLine } from '@/logic/curl'
import NumberField from '@/parts/NumberField.vue'

type Inlet = Schemas['Inlet']
const book = useBook()
const inlets = computed(() => (book.book?.inlets ?? []).filter((one) => one.kind !== 'osc'))
const keys = ref<Record<string, string>>({})

function add(): void {
  const id = freeId('inlet', new Set(book.book?.inlets.map((one) => one.id)))
  void attempt(async () => {
    await book.put('inlets', { id, name: `Inlet ${inlets.value.length + 1}` })
    await comeTo(`[data-inlet="${id}"]`)
  })
}

function set(inlet: Inlet, fields: Partial<Inlet>): void {
  void attempt(() => book.put('inlets', { ...inlet, ...fields }))
}

async function uncover(inlet: Inlet, renew: boolean): Promise<void> {
  const params = { path: { inlet_id: inlet.id } }
  await attempt(async () => {
    const make = () => got(api.POST('/api/inlets/{inlet_id}/key', { params }))
    const there = renew ? null : await got(api.GET('/api/inlets/{inlet_id}/key', { params }))
    keys.value = { ...keys.value, [inlet.id]: (there?.key ? there : await make()).key }
    if (renew) say('The old key no longer works.', 'fine')
  })
}

async function keyOf(inlet: Inlet): Promise<string> {
  const params = { path: { inlet_id: inlet.id } }
  const there = await got(api.GET('/api/inlets/{inlet_id}/key', { params }))
  return (there.key ? there : await got(api.POST('/api/inlets/{inlet_id}/key', { params }))).key
}

async function copyText(text: string, what: string): Promise<void> {
  await attempt(async () => {
    await navigator.clipboard.writeText(text)
    say(`${what} is on the clipboard.`, 'fine')
  })
}

const copy = (inlet: Inlet): Promise<unknown> => attempt(async () => copyText(await keyOf(inlet), 'The key'))
const copyCurl = (inlet: Inlet): Promise<unknown> =>
  attempt(async () =>
    copyText(curlLine(`${here}/api/in/${inlet.id}`, await keyOf(inlet)), 'The line, with the key in it,'),
  )

function cover(id: string): void {
  keys.value = Object.fromEntries(Object.entries(keys.value).filter(([key]) => key !== id))
}

const fieldLines = (inlet: Inlet): string =>
  Object.entries(inlet.fields)
    .map(([name, path]) => `${name}: ${path}`)
    .join('\n')

function setFields(inlet: Inlet, text: string): void {
  const rows = text
    .split('\n')
    .map((line) => line.split(':'))
    .filter(([name]) => name?.trim())
    .map(([name, ...path]) => [
      name!.trim().toLowerCase().replace(/\W+/g, '_'),
      path.join(':').trim() || name!.trim(),
    ])
  set(inlet, { fields: Object.fromEntries(rows) as Record<string, string> })
}
const here = location.origin
const valueOf = (event: Event): string => (event.target as HTMLInputElement).value
</script>

<template>
  <section class="card inlets">
    <div class="row">
      <h2>Incoming hooks</h2>
      <span class="grow"></span>
      <button class="btn tiny" data-test="add-inlet" @click="add">New inlet</button>
    </div>
    <p class="soft small none">
      Other programs call an inlet’s address, signed with its key or with the key as a bearer token. Cues use
      the call “Hook”; its fields become templates, such as
      <code v-pre>{{ payload.amount }}</code>.
    </p>
    <div v-for="inlet in inlets" :key="inlet.id" class="inlet" :data-inlet="inlet.id">
      <div class="row">
        <input
          class="well called"
          :value="inlet.name"
          aria-label="Inlet name"
          @change="set(inlet, { name: valueOf($event).trim() || inlet.name })"
        />
        <code class="cut-off">{{ here }}/api/in/{{ inlet.id }}</code>
        <button
          class="btn tiny"
          data-test="copy-address"
          @click="copyText(`${here}/api/in/${inlet.id}`, 'The address')"
        >
          Copy
        </button>
        <button
          class="btn tiny"
          title="A signed shell command that calls this inlet"
          data-test="copy-curl"
          @click="copyCurl(inlet)"
        >
          Copy as curl
        </button>
        <span class="grow"></span>
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
      <div class="row small">
        <span>Key</span>
        <code data-test="inlet-key" class="cut-off">{{ keys[inlet.id] ?? '•••• covered ••••' }}</code>
        <button
          class="btn tiny"
          data-test="uncover-key"
          @click="keys[inlet.id] ? cover(inlet.id) : uncover(inlet, false)"
        >
          {{ keys[inlet.id] ? 'Cover' : 'Uncover' }}
        </button>
        <button class="btn tiny" @click="copy(inlet)">Copy</button>
        <ElPopconfirm
          :persistent="false"
          title="Make a new key? The old one stops working."
          confirm-button-text="Renew"
          cancel-button-text="Cancel"
          @confirm="uncover(inlet, true)"
        >
          <template #reference><button class="btn tiny">Renew</button></template>
        </ElPopconfirm>
        <label class="row"
          >at most<NumberField
            class="slim"
            :least="1"
            :model-value="inlet.per_min"
            @update:model-value="set(inlet, { per_min: $event })"
            narrow
            whole
          />a minute</label
        >
      </div>
      <div class="three small">
        <label class="field"
          >Fields, one per line — name: JSON path<textarea
            class="well"
            rows="2"
            :value="fieldLines(inlet)"
            placeholder="amount: order.total"
            @change="setFields(inlet, valueOf($event))"
          ></textarea>
        </label>
        <label class="field"
          >Viewer (JSON path)<input
            class="well"
            :value="inlet.viewer"
            placeholder="order.customer"
            @change="set(inlet, { viewer: valueOf($event).trim() })"
        /></label>
        <label class="field"
          >Text (JSON path)<input
            class="well"
            :value="inlet.text"
            placeholder="order.note"
            @change="set(inlet, { text: valueOf($event).trim() })"
        /></label>
      </div>
    </div>
  </section>
</template>

<style scoped>
.inlets {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 10px;
}

.inlet {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
  border-top: 1px solid var(--line);
  padding-top: 8px;
}

.three {
  display: grid;
  grid-template-columns: 2fr 1fr 1fr;
  gap: 10px;
}

.called {
  width: 220px;
  flex: none;
}

.slim {
  width: 80px;
}

.none {
  margin: 0;
}

@media (max-width: 1120px) {
  .three {
    grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  }
}
</style>
