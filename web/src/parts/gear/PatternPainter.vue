<script setup lang="ts">
/** A pattern, painted on the wearable frame by frame and played on its picture. */
import { ElOption, ElSlider } from 'element-plus'
import { computed, onUnmounted, ref, shallowRef, watch } from 'vue'
import { api, got } from '@/api/client'
import { useGear } from '@/composables/useGear'
import { attempt } from '@/composables/useSay'
import { levelsOf, ownPads, painted, type Fit, type Pattern, type Touch } from '@/logic/patterns'
import DurationField from '@/parts/DurationField.vue'
import PickField from '@/parts/PickField.vue'
import WearablePicture from './WearablePicture.vue'

const pattern = defineModel<Pattern>({ required: true })
const gear = useGear()
const at = ref(0)
const level = ref(80)
const played = shallowRef<number[] | null>(null)
let timer = 0

const frame = computed(() => pattern.value.frames[at.value])
/** The wearable's own report; nothing before its first connection. */
const worn = computed(() => gear.catalogue.haptics)
const known = computed(() => worn.value?.touches ?? [])
const pads = computed(() => (known.value.length ? known.value : ownPads(pattern.value)))
const told = ref<Fit>({})
const fit = computed<Fit>(() =>
  known.value.length ? told.value : Object.fromEntries(pads.value.map((pad) => [pad.id, [pad.id]])),
)
const levels = computed(() => played.value ?? levelsOf(frame.value, pads.value, fit.value))

async function ask(): Promise<void> {
  await attempt(async () => {
    told.value = (await got(api.POST('/api/patterns/fit', { body: pattern.value }))).pads
  })
}
watch([() => pattern.value.id, known], () => void ask(), { immediate: true })

function paint(pad: Touch): void {
  if (!frame.value || played.value) return
  const next = painted(pattern.value, at.value, pad, level.value / 100, pads.value, fit.value)
  pattern.value = next.pattern
  told.value = next.fit
}

function addFrame(): void {
  if (!frame.value) return
  const next = pattern.value.frames[at.value + 1]
  const mine = frame.value.at_s
  const when = next ? (mine + next.at_s) / 2 : mine + 0.2
  const copy = { ...frame.value, levels: { ...frame.value.levels }, at_s: Math.round(when * 1000) / 1000 }
  pattern.value.frames.splice(at.value + 1, 0, copy)
  pattern.value.length_s = Math.max(pattern.value.length_s, copy.at_s + 0.1)
  at.value += 1
}

function moveFrame(seconds: number): void {
  if (!frame.value) return
  const moved = frame.value
  moved.at_s = seconds
  pattern.value.frames.sort((a, b) => a.at_s - b.at_s)
  at.value = pattern.value.frames.indexOf(moved)
  pattern.value.length_s = Math.max(pattern.value.length_s, seconds + 0.05)
}

function removeFrame(): void {
  if (pattern.value.frames.length < 2) return
  pattern.value.frames.splice(at.value, 1)
  at.value = Math.min(at.value, pattern.value.frames.length - 1)
}

function stop(): void {
  window.clearInterval(timer)
  played.value = null
}

async function play(): Promise<void> {
  stop()
  await attempt(async () => {
    const told = await got(api.POST('/api/patterns/play', { body: pattern.value as never }))
    const begun = performance.now()
    timer = window.setInterval(() => {
      const i = Math.floor((performance.now() - begun) / 1000 / told.every_s)
      if (i >= told.frames.length) stop()
      else played.value = told.frames[i] ?? null
    }, told.every_s * 1000)
  })
}

onUnmounted(stop)
</script>

<template>
  <div class="painter">
    <div class="body">
      <div class="picture">
        <WearablePicture
          v-if="pads.length"
          :pads="pads"
          :outlines="worn?.outlines"
          :levels="levels"
          :paint="!played"
          @paint="paint"
        />
        <p v-else class="none soft">
          No wearable connected yet. Connect one on the Rig page; patterns fit any wearable.
        </p>
        <p v-if="pads.length && !known.length" class="soft small note">
          No wearable connected; these are the pattern’s own places.
        </p>
      </div>
      <div class="side">
        <label class="field">Brush {{ level }} %<ElSlider v-model="level" aria-label="Brush level" /></label>
        <label class="field"
          >This frame at<DurationField :model-value="frame?.at_s ?? 0" @update:model-value="moveFrame"
        /></label>
        <label class="field"
          >to the next
          <PickField v-if="frame" v-model="frame.curve">
            <ElOption value="line" label="linear" />
            <ElOption value="smooth" label="smooth" />
            <ElOption value="step" label="at once" />
          </PickField>
        </label>
        <div class="row wrap">
          <button class="btn tiny" data-test="copy-frame" @click="addFrame">Copy frame</button>
          <button class="btn tiny" :disabled="pattern.frames.length < 2" @click="removeFrame">
            Remove frame
          </button>
          <button v-if="!played" class="btn tiny" data-test="play-pattern" @click="play">Play</button>
          <button v-else class="btn tiny" @click="stop">Stop</button>
        </div>
      </div>
    </div>
    <ol class="strip" aria-label="Frames">
      <li v-for="(one, i) in pattern.frames" :key="i">
        <button
          class="frame"
          :class="{ on: i === at }"
          :style="{ left: `${(one.at_s / pattern.length_s) * 97}%` }"
          :title="`Frame at ${one.at_s} s`"
          :aria-label="`Frame at ${one.at_s} s`"
          @click="at = i"
        >
          <i :style="{ height: `${Math.max(0, ...Object.values(one.levels).map(Number)) * 100}%` }"></i>
        </button>
      </li>
    </ol>
  </div>
</template>

<style scoped>
.painter {
  display: grid;
  gap: 12px;
}

.body {
  display: grid;
  grid-template-columns: 1fr 220px;
  gap: 16px;
}

.picture {
  height: 340px;
  display: flex;
  flex-direction: column;
}

.none {
  margin: auto;
  max-width: 40ch;
  text-align: center;
}

.note {
  margin: 0;
  text-align: center;
}

.side {
  display: grid;
  gap: 10px;
  align-content: start;
}

.wrap {
  flex-wrap: wrap;
}

.strip {
  position: relative;
  list-style: none;
  height: 44px;
  margin: 0;
  padding: 0;
  background: var(--ground);
  border: 1px solid var(--line);
  border-radius: 6px;
}

.frame {
  position: absolute;
  top: 4px;
  bottom: 4px;
  width: 16px;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  cursor: pointer;
  display: flex;
  align-items: flex-end;
  overflow: hidden;
}

.frame.on {
  border: 2px solid var(--marmalade);
}

.frame i {
  width: 100%;
  background: var(--brick);
}
</style>
