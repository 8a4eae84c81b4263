<script setup lang="ts">
/** What calls a cue: existing calls, then what can be added, by kind. */
import { computed, ref } from 'vue'
import { useBook } from '@/composables/useBook'
import { useGear } from '@/composables/useGear'
import type { Call } from '@/api/client'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'
import { useDraft } from '../draft'
import CallChip from './CallChip.vue'
import ChatCalls from './ChatCalls.vue'
import { CALL_KINDS } from '@/logic/arrivals'
import CountCalls from './CountCalls.vue'
import RewardCalls from './RewardCalls.vue'
import SaidCalls from './SaidCalls.vue'

const book = useBook()
const { cue } = useDraft()
const gear = useGear()

type Kind = keyof typeof CALL_KINDS
const kind = ref<Kind>('reward')

/** Kinds without a choice: one press adds them. */
const PLAIN: Partial<Record<Kind, { name: string; call: Call }[]>> = {
  tip: [{ name: 'Any tip', call: { kind: 'tip', from: null, to: null } as Call }],
  follow: [{ name: 'Any follow', call: { kind: 'follow' } as Call }],
  membership: [{ name: 'Any membership', call: { kind: 'membership' } as Call }],
  raid: [{ name: 'Any raid', call: { kind: 'raid', from: null, to: null } as Call }],
  stream: [
    { name: 'When the stream goes live', call: { kind: 'stream', state: 'live' } as Call },
    { name: 'When the stream ends', call: { kind: 'stream', state: 'ended' } as Call },
  ],
}
const every = ref(15)
const at = ref(30)
const time = ref('21:00')
const timer = (when: object): Call =>
  ({ kind: 'clock', every_min: null, at_min: null, at_time: null, ...when }) as Call

const inlets = computed(() => {
  const used = new Set(cue.value?.calls.map((call) => (call.kind === 'hook' ? call.name : '')))
  return (book.book?.inlets ?? [])
    .filter((inlet) => !used.has(inlet.name))
    .map((inlet) => ({ value: inlet.name, name: inlet.name }))
})
const scenes = computed(() => {
  const used = (cue.value?.calls ?? []).map((call) => (call.kind === 'scene' ? call.scene : ''))
  return Object.keys(gear.broadcast?.scenes ?? {})
    .filter((name) => !used.includes(name))
    .map((name) => ({ value: name, name }))
})

/** Kinds that name an existing entry. */
const named = computed(() => ({
  scene: {
    choices: scenes.value,
    hint: 'When this scene is shown…',
    none: 'Connect your broadcaster to choose a scene.',
    call: (scene: string) => ({ kind: 'scene', scene }) as Call,
  },
  hook: {
    choices: inlets.value,
    hint: 'When this inlet is called…',
    none: 'No inlets yet.',
    call: (name: string) => ({ kind: 'hook', name }) as Call,
  },
}))

function add(call: Call): void {
  cue.value?.calls.push(JSON.parse(JSON.stringify(call)) as Call)
}
</script>

<template>
  <div v-if="cue && book.book" class="edit">
    <h2>Calls</h2>
    <ul v-if="cue.calls.length" class="chips">
      <CallChip
        v-for="(call, i) in cue.calls"
        :key="i"
        :call="call"
        @change="cue.calls[i] = $event"
        @remove="cue.calls.splice(i, 1)"
      />
    </ul>
    <p v-else class="soft small">Only its pad calls it.</p>
    <h2>Add</h2>
    <div class="kinds" role="tablist" aria-label="Kind of call">
      <button
        v-for="(name, one) in CALL_KINDS"
        :key="one"
        class="btn tiny"
        role="tab"
        :aria-selected="kind === one"
        :class="{ main: kind === one }"
        :data-test="`call-kind-${one}`"
        @click="kind = one"
      >
        {{ name }}
      </button>
    </div>
    <RewardCalls v-if="kind === 'reward'" @add="add" />
    <ChatCalls v-else-if="kind === 'chat'" @add="add" />
    <SaidCalls v-else-if="kind === 'said'" @add="add" />
    <CountCalls v-else-if="kind === 'count'" @add="add" />
    <div v-else-if="kind === 'clock'" class="timer">
      <span>Every</span>
      <NumberField
        v-model="every"
        class="number"
        :least="1"
        :most="1440"
        aria-label="Minutes between"
        data-test="timer-every"
      />
      <span>min</span>
      <button class="btn" data-test="add-every" @click="add(timer({ every_min: every }))">Add</button>
      <span>At minute</span>
      <NumberField v-model="at" class="number" :least="0" :most="10000" aria-label="Minute of the stream" />
      <span></span>
      <button class="btn" @click="add(timer({ at_min: at }))">Add</button>
      <span>At</span>
      <input v-model="time" type="time" class="well" aria-label="Time of day" data-test="timer-time" />
      <span></span>
      <button class="btn" :disabled="!time" data-test="add-time" @click="add(timer({ at_time: time }))">
        Add
      </button>
      <p class="soft small whole">
        Timers run while you are live. Minutes count from the moment the stream starts.
      </p>
    </div>
    <template v-else-if="kind === 'scene' || kind === 'hook'">
      <PickField
        v-if="named[kind].choices.length"
        :model-value="undefined"
        :choices="named[kind].choices"
        :placeholder="named[kind].hint"
        :aria-label="CALL_KINDS[kind]"
        :data-test="`pick-${kind}`"
        @update:model-value="add(named[kind].call($event))"
      />
      <p v-else class="soft small">{{ named[kind].none }} <RouterLink to="/rig">Open the Rig</RouterLink></p>
    </template>
    <div v-else class="row wrap">
      <button
        v-for="one in PLAIN[kind]"
        :key="one.name"
        class="btn"
        :data-test="`add-${kind}`"
        @click="add(one.call)"
      >
        {{ one.name }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.edit {
  display: grid;
  gap: 10px;
}

.chips {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
  max-height: 240px;
  overflow: auto;
}

.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}

.timer {
  display: grid;
  grid-template-columns: auto 130px auto 1fr;
  gap: 8px;
  align-items: center;
}

.timer input {
  width: 130px;
}

.timer .btn {
  justify-self: start;
}

.whole {
  grid-column: 1 / -1;
  margin: 0;
}

.wrap {
  flex-wrap: wrap;
}
</style>
