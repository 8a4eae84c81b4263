<script setup lang="ts">
/** One piece of gear: its state and what it shows now; unfolded, its address and its rest. */
import { ElSwitch } from 'element-plus'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useGear, type GearState } from '@/composables/useGear'
import { useLive } from '@/composables/useLive'
import { attempt, say } from '@/composables/useSay'
import { sayTime } from '@/logic/words'
import { markOf } from '@/parts/marks'
import OutputMark from '@/parts/OutputMark.vue'
import PatternDialog from '@/parts/gear/PatternDialog.vue'
import GearPicture from './GearPicture.vue'
import GearSetUp from './GearSetUp.vue'
import HandsSetup from './HandsSetup.vue'
import HookSetup from './HookSetup.vue'
import LampsSetup from './LampsSetup.vue'
import LatchList from './LatchList.vue'
import RestTable from './RestTable.vue'
import WireLogs from './WireLogs.vue'

const props = defineProps<{ gear: GearState }>()
const book = useBook()
const live = useLive()
const all = useGear()
const kind = computed(() => all.kindOf(props.gear.kind))
const resting = ref(false)
const painting = ref(false)

const WORDS = { in_step: 'in sync', catching_up: 'catching up', away: 'disconnected', off: 'off' } as const
const row = computed(() => live.state?.gear.find((g) => g.id === props.gear.id))
const state = computed(() => row.value?.state ?? (props.gear.state as keyof typeof WORDS))
const entry = computed(() => book.book?.gear.find((g) => g.id === props.gear.id))
/** Closed, unless something must be set before it can work. */
const open = ref(
  (props.gear.kind === 'broadcaster' && !props.gear.has_secret) ||
    (props.gear.kind === 'lights' && !entry.value?.fixtures.length) ||
    (['hook', 'channel'].includes(props.gear.kind) && !props.gear.address),
)
const path = computed(() => ({ path: { gear_id: props.gear.id } }))

/** An unfolded card may move on the page: it is scrolled into view. */
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

async function test(): Promise<void> {
  await attempt(async () => {
    say((await got(api.POST('/api/gear/{gear_id}/test', { params: path.value }))).what, 'fine')
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
    :style="{ '--mark': markOf(kind.mark).colour }"
  >
    <div class="row">
      <OutputMark :of="kind.mark" :size="22" />
      <input
        class="name"
        :value="gear.name"
        aria-label="Gear name"
        @change="set({ name: ($event.target as HTMLInputElement).value.trim() || gear.name })"
      />
      <strong class="state" :class="state" data-test="gear-state">{{ WORDS[state] }}</strong>
      <ElSwitch :model-value="gear.on" aria-label="On" @update:model-value="set({ on: Boolean($event) })" />
    </div>
    <p v-if="row?.problem" class="wrong small" role="alert">{{ row.problem }}</p>
    <p v-for="one in row?.lacks ?? []" :key="one" class="lacks small" data-test="lacks">{{ one }}</p>
    <div class="body">
      <GearPicture :gear="gear" :away="state === 'away' || state === 'off'" :serial="row?.serial ?? 0" />
      <GearSetUp v-if="open" v-model:resting="resting" :gear="gear" @set="set" />
    </div>
    <div class="row foot">
      <span v-if="row?.since" class="soft small grow">since {{ sayTime(row.since) }}</span>
      <button v-if="gear.kind === 'haptics'" class="btn tiny" data-test="patterns" @click="painting = true">
        Patterns…
      </button>
      <button class="btn tiny" :aria-label="`Test ${gear.name}`" @click="test">Test</button>
      <button class="btn tiny" data-test="set-up" :aria-expanded="open" @click="fold">
        {{ open ? 'Close' : 'Set up' }}
      </button>
    </div>
    <LatchList v-if="gear.kind === 'keys' && (open || gear.properties.length)" :gear="gear" />
    <template v-if="open">
      <LampsSetup v-if="gear.kind === 'lights'" :gear="gear" />
      <HandsSetup v-else-if="gear.kind === 'keys'" :address="entry?.address ?? ''" @set="set" />
      <HookSetup v-else-if="gear.kind === 'hook'" :gear="gear" />
      <p v-else-if="gear.kind === 'haptics'" class="soft small none">
        Limits on level and time are in the house’s settings below.
      </p>
    </template>
    <PatternDialog v-if="painting" :pattern-id="null" @close="painting = false" />
    <WireLogs v-if="open" :only="gear.id" />
    <RestTable v-if="open && resting" :gear="gear" />
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

.lacks {
  color: var(--marmalade);
}

.lacks,
.wrong,
.none {
  margin: 0;
}

@media (max-width: 760px) {
  .gear.open .body {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
