<script setup lang="ts">
/** The frame of the overlay; visible beats are placed by dragging and resizing, with snapping. */
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useBook } from '@/composables/useBook'
import { useGear } from '@/composables/useGear'
import type { Place } from '@/composables/useCueDraft'
import { round4 } from '@/logic/arrange'
import { coveredOn } from '@/logic/covered'
import ArrangeBar from '../score/ArrangeBar.vue'
import { useDraft, useTrying } from '../draft'
import StageLayers from './StageLayers.vue'
import StageItem from './StageItem.vue'
import StageMouth from './StageMouth.vue'
import StageTargets from './StageTargets.vue'
import { useHandles } from './useHandles'
import { ElOption } from 'element-plus'
import PickField from '@/parts/PickField.vue'

const book = useBook()
const draft = useDraft()
const { stage: tryStage, playing } = useTrying()
const frame = ref<HTMLElement>()
const free = ref(false)
const behind = ref(true)
const gear = useGear()
const { hover } = useHandles(frame, draft, free)

const overlayId = ref('')
const overlays = computed(() => book.book?.overlays ?? [])
const overlay = computed(() => overlays.value.find((o) => o.id === overlayId.value) ?? overlays.value[0])
const size = computed(() => ({ w: overlay.value?.width ?? 1920, h: overlay.value?.height ?? 1080 }))
const here = computed(() =>
  draft.beats.value.filter((beat) => {
    const wanted = beat.overlays ?? []
    const shown = wanted.length ? wanted.includes(overlay.value?.id ?? '') : !overlay.value?.private
    return beat.place && beat.kind !== 'sound' && (shown || draft.picked.value.includes(beat))
  }),
)
/** Beats with a frame of their own; thrown things fly over all of it. */
const seen = computed(() => here.value.filter((beat) => beat.kind !== 'throw'))
/** Beats at the same place that don't all play: of those, only one shows what it has. */
const covered = computed(() => coveredOn(seen.value, draft.chosen.value))
const layered = computed(() => here.value.filter((beat) => beat.layer !== undefined))
const NINE = [0, 0.5, 1].flatMap((y) => [0, 0.5, 1].map((x) => ({ x, y })))

/** Moves every selected beat that has a place. */
function place(to: (place: Place) => { x: number; y: number }): void {
  for (const beat of draft.picked.value) {
    const now = beat.place as Place | undefined
    if (!now) continue
    const { x, y } = to(now)
    draft.change(beat.id, { place: { ...now, x: round4(x), y: round4(y) } })
  }
}

const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}

function onKey(event: KeyboardEvent): void {
  const step = ARROWS[event.key]
  if (!event.altKey || !step) return
  event.preventDefault()
  const far = event.shiftKey ? 0.05 : 0.005
  place((now) => ({ x: now.x + step[0] * far, y: now.y + step[1] * far }))
}
useEventListener(window, 'keydown', onKey)

/** What was pressed, and whether it was selected before. */
let pressed = { id: '', again: false, x: 0, y: 0 }
/** The pointer's tolerance, in px, between a press and a drag. */
const STILL_PX = 3

function press(id: string, event: MouseEvent): void {
  const joins = event.shiftKey || event.ctrlKey || event.metaKey
  pressed = { id, again: !joins && draft.chosen.value === id, x: event.clientX, y: event.clientY }
  draft.choose(id, joins)
}

/** A second press selects what lies below. */
function pickBelow(event: MouseEvent): void {
  const moved = Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y)
  if (!pressed.again || moved > STILL_PX) return
  const here = document
    .elementsFromPoint(event.clientX, event.clientY)
    .flatMap((node) => (node as HTMLElement).closest<HTMLElement>('[data-beat]')?.dataset.beat ?? [])
  const ids = [...new Set(here)]
  const below = ids[(ids.indexOf(pressed.id) + 1) % ids.length]
  if (below && below !== pressed.id) draft.choose(below, false)
}
</script>

<template>
  <section class="box">
    <div
      ref="frame"
      class="frame"
      data-test="stage"
      :style="{
        aspectRatio: `${size.w} / ${size.h}`,
        backgroundImage: behind && gear.programme ? `url(${gear.programme})` : undefined,
      }"
      :class="{ behind: behind && gear.programme }"
      @pointerdown.self="draft.chosen.value = null"
    >
      <StageItem
        v-for="beat in seen"
        :key="beat.id"
        :beat="beat"
        :chosen="draft.picked.value.includes(beat)"
        :frame-height="size.h"
        :covered="covered.has(beat.id)"
        @mouseenter="hover"
        @mouseleave="hover(null)"
        @mousedown="press(beat.id, $event)"
        @click="pickBelow"
      />
      <StageMouth
        v-if="draft.chosenBeat.value?.kind === 'speech' && draft.chosenBeat.value.mouth && !playing"
      />
      <StageTargets
        v-if="draft.chosenBeat.value?.kind === 'throw' && !playing"
        :width="size.w"
        :height="size.h"
      />
      <div
        :ref="(node) => (tryStage = node as HTMLElement)"
        class="try"
        :class="{ playing }"
        data-test="try-stage"
      ></div>
      <p v-if="!seen.length && !draft.chosenBeat.value" class="soft hint">
        <span>Anything visible is placed here.</span>
      </p>
    </div>
    <div class="row under small">
      <PickField v-if="overlays.length > 1" v-model="overlayId" class="which" aria-label="Overlay shown">
        <ElOption v-for="(o, i) in overlays" :key="o.id" :value="i ? o.id : ''" :label="o.name" />
      </PickField>
      <span class="soft"
        >{{ overlays.length > 1 ? '' : (overlay?.name ?? 'Overlay') }} {{ size.w }} × {{ size.h }}</span
      >
      <ArrangeBar :seen="seen" />
      <StageLayers :seen="layered" />
      <span class="grow"></span>
      <label v-if="gear.programme" class="row"
        ><input v-model="behind" type="checkbox" /> Show programme behind</label
      >
      <label class="row"><input v-model="free" type="checkbox" /> Stretch freely</label>
      <div class="nine" role="group" aria-label="Place">
        <button
          v-for="point in NINE"
          :key="`${point.x}/${point.y}`"
          class="dot"
          :disabled="!draft.chosenBeat.value?.place"
          :aria-label="`Place at ${point.x * 100} %, ${point.y * 100} %`"
          @click="place((now) => ({ x: (1 - now.w) * point.x, y: (1 - now.h) * point.y }))"
        ></button>
      </div>
    </div>
  </section>
</template>

<style scoped>
.box {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  gap: 6px;
  min-height: 0;
  justify-items: center;
}

.frame {
  position: relative;
  height: 100%;
  max-width: 100%;
  background: repeating-conic-gradient(var(--surface) 0% 25%, var(--ground) 0% 50%) 0 0 / 28px 28px;
  border: 1px solid var(--line);
  border-radius: 4px;
  overflow: hidden;
  container-type: size;
  isolation: isolate;
}

.frame.behind {
  background-size: cover;
  background-position: center;
}

.try {
  position: absolute !important;
  inset: 0;
  pointer-events: none;
  z-index: 2000;
}

.frame:has(.playing) :deep(.item),
.frame:has(.playing) :deep(.moveable-control-box) {
  visibility: hidden !important;
}

.hint {
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  margin: 0;
  pointer-events: none;
}

.hint span {
  padding: 4px 14px;
  background: var(--ground);
  border-radius: 8px;
}

.under {
  width: 100%;
  padding: 0 8px 6px 0;
}

.which {
  width: auto;
  min-height: 26px;
  padding: 1px 8px;
}

.nine {
  display: grid;
  grid-template-columns: repeat(3, 12px);
  gap: 3px;
}

.dot {
  height: 10px;
  padding: 0;
  border: 1px solid var(--soft);
  border-radius: 2px;
  background: none;
  cursor: pointer;
}

.dot:hover:not(:disabled) {
  background: var(--marmalade);
}

.frame :deep(.moveable-control-box) {
  --moveable-color: var(--marmalade);
}
</style>
