<script setup lang="ts">
/** A night, or the same night under two books: its time line, the stage at the scrubber, what it came to and what stands out. A rehearsed
 * one and a saved one look alike. */
import { ElSwitch } from 'element-plus'
import { computed, onScopeDispose, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useBook } from '@/composables/useBook'
import type { Rehearsal } from '@/composables/useRehearsal'
import { clock, within, type Call, type Timeline, type Window } from '@/logic/nights'
import CallsDrawer from './CallsDrawer.vue'
import type { Hit } from './drawNight'
import NightCharts from './NightCharts.vue'
import NightScore from './NightScore.vue'
import NightStage from './NightStage.vue'
import ReportCard from './ReportCard.vue'
import StandoutsCard from './StandoutsCard.vue'

const props = defineProps<{ rehearsal: Rehearsal; nights: Timeline[] }>()
const book = useBook()
const router = useRouter()
const SPEEDS = [1, 8, 60]

const at = ref(0)
const window_ = ref<Window>({ from: 0, span: 1 })
const speed = ref(0)
const sound = ref(false)
const chosen = ref('')
const picked = ref<Hit | null>(null)
const length = computed(() => Math.max(1, ...props.nights.map((night) => night.length)))
watch(
  () => props.rehearsal.id,
  () => {
    at.value = 0
    speed.value = 0
    picked.value = null
    chosen.value = ''
  },
)
watch(length, (span) => (window_.value = { from: 0, span }), { immediate: true })

// Playing

let last = 0
function tick(now: number): void {
  if (!speed.value) return
  at.value = Math.min(length.value, at.value + Math.min(250, now - last) * speed.value)
  last = now
  if (at.value > window_.value.from + window_.value.span)
    window_.value = within({ ...window_.value, from: at.value }, length.value)
  if (at.value >= length.value) speed.value = 0
  else requestAnimationFrame(tick)
}
function play(fast: number): void {
  const goes = speed.value === 0
  speed.value = speed.value === fast ? 0 : fast
  if (at.value >= length.value) at.value = 0
  last = performance.now()
  if (goes && speed.value) requestAnimationFrame(tick)
}
onScopeDispose(() => (speed.value = 0))

// The calls behind a figure

const drawer = ref(false)
const side = ref(0)
const asked = ref({ figure: 'redemptions', title: '', more: '' })
function calls(of: number, figure: string, title: string, more: string): void {
  side.value = of
  asked.value = { figure, title, more }
  drawer.value = true
}
function go(call: Call): void {
  drawer.value = false
  chosen.value = call.call
  at.value = Math.max(0, call.at)
  const span = Math.min(length.value, 600_000)
  window_.value = within({ span, from: call.at - span / 2 }, length.value)
}
function open(hit: Hit): void {
  picked.value = hit
  chosen.value = hit.call
}
const names = computed(() => new Map((book.book?.cues ?? []).map((cue) => [cue.id, cue.name])))
const isKept = computed(() => props.rehearsal.night !== null)
</script>

<template>
  <div class="view">
    <section class="card line" aria-label="The night">
      <div class="row bar">
        <h2>{{ clock(at, true) }}</h2>
        <button
          v-for="fast in SPEEDS"
          :key="fast"
          class="btn tiny"
          :class="{ main: speed === fast }"
          :aria-pressed="speed === fast"
          :data-test="`play-${fast}`"
          @click="play(fast)"
        >
          {{ speed === fast ? 'Pause' : `Play ×${fast}` }}
        </button>
        <label class="row small soft">
          <ElSwitch v-model="sound" size="small" aria-label="With sound" /> with sound
        </label>
        <span class="grow"></span>
        <span v-if="picked" class="row small picked" data-test="picked">
          <b>{{ picked.words[0] }}</b> {{ picked.words.slice(1, 4).join(', ') }}
          <button v-if="names.has(picked.cue)" class="btn tiny" @click="router.push(`/cues/${picked.cue}`)">
            Open the cue
          </button>
          <RouterLink
            v-if="isKept && picked.call"
            class="btn tiny"
            :to="`/ledger?call=${encodeURIComponent(picked.call)}`"
            >Trace</RouterLink
          >
        </span>
        <button class="btn tiny" title="The whole night (0)" @click="window_ = { from: 0, span: length }">
          Whole night
        </button>
      </div>
      <template v-for="(night, i) in nights" :key="i">
        <div v-if="nights.length > 1" class="small soft">{{ rehearsal.told[i] }}</div>
        <NightScore
          v-model:window="window_"
          :night="night"
          :at="at"
          :chosen="chosen"
          :label="`The night: ${rehearsal.told[i] ?? ''}`"
          @update:at="at = $event"
          @open="open"
        />
      </template>
      <p v-if="nights.some((night) => night.left_out)" class="soft small">
        {{ nights[0]?.left_out }} more calls are counted but not drawn.
      </p>
    </section>
    <div class="sides">
      <div v-for="(night, i) in nights" :key="i" class="stack">
        <section class="card" :aria-label="`The overlay: ${rehearsal.told[i] ?? ''}`">
          <div class="card-title">
            <h2>{{ nights.length > 1 ? rehearsal.told[i] : 'On the overlay' }}</h2>
          </div>
          <NightStage
            :rehearsal="rehearsal.id"
            :book="i"
            :at="at"
            :speed="speed"
            :sound="sound && i === 0"
            :label="`The overlay at ${clock(at, true)}`"
          />
        </section>
        <template v-if="rehearsal.books[i]">
          <ReportCard
            v-if="nights.length > 1"
            :night="rehearsal.books[i]!"
            :words="rehearsal.words"
            :lanes="night.lanes"
            @calls="(figure, title, more) => calls(i, figure, title, more)"
          />
          <StandoutsCard
            :standouts="rehearsal.books[i]!.standouts"
            :assumed="i === 0 ? rehearsal.assumed : []"
          />
        </template>
      </div>
      <ReportCard
        v-if="nights.length === 1 && rehearsal.books[0]"
        :night="rehearsal.books[0]"
        :words="rehearsal.words"
        :lanes="nights[0]?.lanes ?? []"
        @calls="(figure, title, more) => calls(0, figure, title, more)"
      />
    </div>
    <section v-if="nights[0]" class="card" aria-label="Charts"><NightCharts :night="nights[0]" /></section>
    <CallsDrawer
      v-if="nights[side]"
      v-model="drawer"
      :night="nights[side]!"
      :figure="asked.figure"
      :title="asked.title"
      :more="asked.more"
      :names="names"
      @go="go"
    />
  </div>
</template>

<style scoped>
.view {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  min-width: 0;
}

.line {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
  min-width: 0;
}

.bar h2 {
  min-width: 84px;
  font-size: 22px;
}

.picked {
  flex-wrap: wrap;
  min-width: 0;
}

.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}

.bar {
  flex-wrap: wrap;
}

.stack {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  min-width: 0;
}

@media (max-width: 1000px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
