<script setup lang="ts">
/** One piece of gear: how it is and what it shows now; unfolded, where it is looked for and what it rests at. */
import { ElPopconfirm, ElSwitch } from 'element-plus'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useGear, type GearState } from '@/composables/useGear'
import { useLive } from '@/composables/useLive'
import { covered } from '@/composables/useLook'
import { attempt, say } from '@/composables/useSay'
import { sayPath, sayTime, sayValue } from '@/logic/words'
import { markOf } from '@/parts/marks'
import OutputMark from '@/parts/OutputMark.vue'
import PatternDialog from '@/parts/gear/PatternDialog.vue'
import GearPicture from './GearPicture.vue'
import HookSetup from './HookSetup.vue'
import LampsSetup from './LampsSetup.vue'
import LatchList from './LatchList.vue'
import RestField from './RestField.vue'

const props = defineProps<{ gear: GearState }>()
const book = useBook()
const live = useLive()
const all = useGear()
const secret = ref('')
const resting = ref(false)
const painting = ref(false)

const WORDS = { in_step: 'in step', catching_up: 'catching up', away: 'away', off: 'off' } as const
/** The kind of output whose mark the gear wears. */
const MARK: Record<string, string> = { broadcaster: 'broadcast', lights: 'light' }
const row = computed(() => live.state?.gear.find((g) => g.id === props.gear.id))
const state = computed(() => row.value?.state ?? (props.gear.state as keyof typeof WORDS))
const entry = computed(() => book.book?.gear.find((g) => g.id === props.gear.id))
/** What its secret is called; gear without one has none to keep. */
const secretName = computed(() => ({ broadcaster: 'Password', hook: 'Signing secret' })[props.gear.kind])
const HINT: Record<string, string> = {
  broadcaster: 'ws://…',
  lights: 'sacn://…',
  avatar: 'osc://…',
  voice: 'osc://…',
  haptics: 'osc://…',
  keys: 'ws://… or keyboard:',
  hook: 'https://…',
}
/** Gear that tells of the hand itself has it there; the others have it here. */
const tells = computed(() => ['broadcaster', 'avatar', 'voice', 'haptics'].includes(props.gear.kind))
/** Folded, unless there is something that must be set before it can work. */
const open = ref(
  (props.gear.kind === 'broadcaster' && !props.gear.has_secret) ||
    (props.gear.kind === 'lights' && !entry.value?.fixtures.length) ||
    (props.gear.kind === 'hook' && !entry.value?.address),
)
const path = computed(() => ({ path: { gear_id: props.gear.id } }))

/** An unfolded card may come to lie elsewhere on the shelf: it is brought into view. */
const card = useTemplateRef<HTMLElement>('card')
async function fold(): Promise<void> {
  open.value = !open.value
  await nextTick()
  card.value?.scrollIntoView({ block: 'nearest' })
}

function set(fields: Record<string, unknown>): Promise<unknown> {
  return attempt(async () => {
    if (entry.value) await book.put('gear', { ...entry.value, ...fields })
    await all.load()
  })
}

async function keepSecret(): Promise<void> {
  await attempt(async () => {
    await got(api.PUT('/api/gear/{gear_id}/secret', { params: path.value, body: { secret: secret.value } }))
    secret.value = ''
    say(`The ${secretName.value?.toLowerCase()} is kept.`, 'fine')
    await all.load()
  })
}

async function act(what: 'test' | 'rest'): Promise<void> {
  await attempt(async () => {
    const call =
      what === 'test'
        ? api.POST('/api/gear/{gear_id}/test', { params: path.value })
        : api.POST('/api/gear/{gear_id}/rest', { params: path.value })
    say((await got(call)).what, 'fine')
    await all.load()
  })
}
</script>

<template>
  <section
    ref="card"
    class="card gear"
    :class="{ open }"
    :data-gear="gear.id"
    :style="{ '--mark': markOf(MARK[gear.kind] ?? gear.kind).colour }"
  >
    <div class="row">
      <OutputMark :of="MARK[gear.kind] ?? gear.kind" :size="22" />
      <input
        class="name"
        :value="gear.name"
        aria-label="Name of the gear"
        @change="set({ name: ($event.target as HTMLInputElement).value.trim() || gear.name })"
      />
      <strong class="state" :class="state" data-test="gear-state">{{ WORDS[state] }}</strong>
      <ElSwitch :model-value="gear.on" aria-label="On" @update:model-value="set({ on: Boolean($event) })" />
    </div>
    <p v-if="row?.problem" class="wrong small" role="alert">{{ row.problem }}</p>
    <div class="body">
      <GearPicture :gear="gear" :away="state === 'away' || state === 'off'" :serial="row?.serial ?? 0" />
      <div v-if="open" class="set-up">
        <label class="field"
          >Address<input
            class="well"
            :value="covered && gear.address ? '•••• covered ••••' : (entry?.address ?? '')"
            :readonly="covered && Boolean(gear.address)"
            :placeholder="gear.address || HINT[gear.kind]"
            @change="set({ address: ($event.target as HTMLInputElement).value.trim() })"
        /></label>
        <form v-if="secretName" class="field" @submit.prevent="keepSecret">
          <label class="field"
            >{{ secretName }}{{ gear.has_secret ? ' (one is kept)' : '' }}
            <span class="row">
              <input
                v-model="secret"
                class="well"
                type="password"
                autocomplete="off"
                :placeholder="gear.has_secret ? '•••••' : 'none yet'"
              />
              <button class="btn tiny" :disabled="!secret">Keep</button>
            </span>
          </label>
        </form>
        <div class="row wrap">
          <ElPopconfirm
            v-if="tells"
            title="What it shows now is at rest from now on, and holds on it are dropped."
            confirm-button-text="Take as rest"
            cancel-button-text="Leave it"
            width="280"
            @confirm="act('rest')"
          >
            <template #reference><button class="btn tiny">Take as rest what it shows now</button></template>
          </ElPopconfirm>
          <button class="btn tiny" :disabled="!gear.properties.length" @click="resting = !resting">
            {{ resting ? 'Hide' : 'Show' }} {{ gear.properties.length }} rest values
          </button>
          <span class="grow"></span>
          <ElPopconfirm
            title="Take this gear out of the rig?"
            confirm-button-text="Take out"
            cancel-button-text="Keep"
            @confirm="attempt(() => book.remove('gear', gear.id))"
          >
            <template #reference><button class="btn tiny danger">Take out</button></template>
          </ElPopconfirm>
        </div>
      </div>
    </div>
    <div class="row foot">
      <span v-if="row?.since" class="soft small grow">since {{ sayTime(row.since) }}</span>
      <button v-if="gear.kind === 'haptics'" class="btn tiny" data-test="patterns" @click="painting = true">
        Patterns…
      </button>
      <button class="btn tiny" @click="act('test')">Test</button>
      <button class="btn tiny" data-test="set-up" :aria-expanded="open" @click="fold">
        {{ open ? 'Fold' : 'Set up' }}
      </button>
    </div>
    <LatchList v-if="gear.kind === 'keys' && (open || gear.properties.length)" :gear="gear" />
    <template v-if="open">
      <LampsSetup v-if="gear.kind === 'lights'" :gear="gear" />
      <HookSetup v-else-if="gear.kind === 'hook'" :gear="gear" />
      <p v-else-if="gear.kind === 'haptics'" class="soft small none">
        Limits on level and time are in the house’s settings below.
      </p>
    </template>
    <PatternDialog v-if="painting" :pattern-id="null" @close="painting = false" />
    <table v-if="open && resting" class="small">
      <thead>
        <tr>
          <th>Property</th>
          <th>At rest</th>
          <th>Shows now</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in gear.properties" :key="p.path">
          <td>{{ sayPath(p.path) }}</td>
          <td><RestField :path="p.path" :value="p.rest" /></td>
          <td :class="{ held: p.held }">{{ sayValue(p.actual) }}{{ p.held ? ' (held)' : '' }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.gear {
  display: grid;
  gap: 10px;
  align-content: start;
  border-left: 5px solid var(--mark);
}

.foot {
  justify-content: flex-end;
}

.gear.open {
  grid-column: 1 / -1;
}

.gear.open .body {
  display: grid;
  grid-template-columns: 300px 1fr;
  gap: 14px;
}

.set-up {
  display: grid;
  gap: 8px;
  align-content: start;
}

.wrap {
  flex-wrap: wrap;
}

.name {
  font: 640 18px var(--display);
  background: none;
  border: 0;
  flex: 1 1 60px;
  min-width: 0;
}

.state {
  color: var(--mint);
}

.state.catching_up {
  color: var(--marmalade);
}

.state.away,
.wrong {
  color: var(--berry);
}

.state.off {
  color: var(--soft);
}

.wrong,
.none {
  margin: 0;
}

table {
  border-collapse: collapse;
  width: 100%;
}

th {
  text-align: left;
  color: var(--soft);
  font-weight: 400;
}

td {
  padding: 2px 10px 2px 0;
  border-top: 1px solid var(--line);
}

.held {
  color: var(--marmalade);
}
</style>
