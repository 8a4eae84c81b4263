<script setup lang="ts">
/** The frame of the overlay; what is seen is placed by dragging and resizing, with snapping. */
import Moveable from 'moveable'
import { computed, nextTick, onMounted, onUnmounted, ref, watch } from 'vue'
import { useBook } from '@/composables/useBook'
import type { LooseBeat, Place } from '@/composables/useCueDraft'
import { useDraft, useTrying } from './draft'
import StageItem from './StageItem.vue'

const book = useBook()
const draft = useDraft()
const { stage: tryStage, playing } = useTrying()
const frame = ref<HTMLElement>()
const free = ref(false)
let moveable: Moveable | null = null
let pressed = false
let over: HTMLElement | null = null

const overlay = computed(() => book.book?.overlays[0])
const size = computed(() => ({ w: overlay.value?.width ?? 1920, h: overlay.value?.height ?? 1080 }))
const seen = computed(() => draft.beats.value.filter((beat) => beat.place && beat.kind !== 'sound'))
const NINE = [0, 0.5, 1].flatMap((y) => [0, 0.5, 1].map((x) => ({ x, y })))

function round(value: number): number {
  return Math.round(value * 10_000) / 10_000
}

function placeOf(beat: LooseBeat): Place {
  return beat.place as Place
}

/** Where a node lies in the frame, in pixels of the frame's inside. */
function boxOf(node: HTMLElement): Place | null {
  const outer = frame.value
  if (!outer) return null
  const box = outer.getBoundingClientRect()
  const own = node.getBoundingClientRect()
  return {
    x: own.left - box.left - outer.clientLeft,
    y: own.top - box.top - outer.clientTop,
    w: own.width,
    h: own.height,
  }
}

function commit(node: HTMLElement): void {
  const box = boxOf(node)
  const outer = frame.value
  if (!box || !outer) return
  const { clientWidth: width, clientHeight: height } = outer
  draft.change(node.dataset.beat ?? '', {
    place: {
      x: round(box.x / width),
      y: round(box.y / height),
      w: round(box.w / width),
      h: round(box.h / height),
    },
  })
}

/** While something is moved its node is in pixels; once it is put down it is in the frame's fractions again. */
function toPixels(node: HTMLElement): void {
  const box = boxOf(node)
  if (!box) return
  Object.assign(node.style, {
    left: `${box.x}px`,
    top: `${box.y}px`,
    width: `${box.w}px`,
    height: `${box.h}px`,
  })
}

function put(point: { x: number; y: number }): void {
  const beat = draft.chosenBeat.value
  if (!beat?.place) return
  const place = placeOf(beat)
  draft.change(beat.id, {
    place: { ...place, x: round((1 - place.w) * point.x), y: round((1 - place.h) * point.y) },
  })
}

async function attach(): Promise<void> {
  await nextTick()
  if (pressed) return
  const under = over?.isConnected ? over : null
  aim(under ?? frame.value?.querySelector<HTMLElement>(`[data-beat="${draft.chosen.value ?? ''}"]`) ?? null)
}

function aim(target: HTMLElement | null): void {
  if (!moveable || !frame.value) return
  const box = frame.value.getBoundingClientRect()
  moveable.target = target
  moveable.elementGuidelines = [...frame.value.querySelectorAll<HTMLElement>('[data-beat]')].filter(
    (n) => n !== target,
  )
  moveable.verticalGuidelines = [0, box.width / 3, box.width / 2, (box.width * 2) / 3, box.width]
  moveable.horizontalGuidelines = [0, box.height / 3, box.height / 2, (box.height * 2) / 3, box.height]
  moveable.keepRatio = !free.value
  moveable.updateRect()
}

onMounted(() => {
  if (!frame.value) return
  moveable = new Moveable(frame.value, {
    draggable: true,
    resizable: true,
    snappable: true,
    snapThreshold: 6,
    snapDirections: { left: true, top: true, right: true, bottom: true, center: true, middle: true },
    elementSnapDirections: { left: true, top: true, right: true, bottom: true, center: true, middle: true },
    origin: false,
    renderDirections: ['nw', 'ne', 'sw', 'se', 'n', 's', 'e', 'w'],
  })
  moveable
    .on('dragStart', ({ target }) => toPixels(target as HTMLElement))
    .on('drag', ({ target, left, top }) => {
      target.style.left = `${left}px`
      target.style.top = `${top}px`
    })
    .on('dragEnd', ({ target, isDrag }) => isDrag && commit(target as HTMLElement))
    .on('resizeStart', ({ target }) => toPixels(target as HTMLElement))
    .on('resize', ({ target, width, height, drag }) => {
      target.style.width = `${width}px`
      target.style.height = `${height}px`
      target.style.left = `${drag.left}px`
      target.style.top = `${drag.top}px`
    })
    .on('resizeEnd', ({ target, isDrag }) => isDrag && commit(target as HTMLElement))
  void attach()
  window.addEventListener('resize', attach)
  window.addEventListener('keydown', onKey)
  frame.value.addEventListener('mousedown', press, true)
  window.addEventListener('mouseup', letGo)
})
function press(): void {
  pressed = true
}

function letGo(): void {
  pressed = false
  void attach()
}

onUnmounted(() => {
  moveable?.destroy()
  window.removeEventListener('resize', attach)
  window.removeEventListener('keydown', onKey)
  window.removeEventListener('mouseup', letGo)
})
watch([draft.chosen, free, seen], () => void attach(), { deep: true })

const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}

function onKey(event: KeyboardEvent): void {
  const beat = draft.chosenBeat.value
  const step = ARROWS[event.key]
  if (!event.altKey || !step || !beat?.place) return
  event.preventDefault()
  const far = event.shiftKey ? 0.05 : 0.005
  const place = placeOf(beat)
  draft.change(beat.id, {
    place: { ...place, x: round(place.x + step[0] * far), y: round(place.y + step[1] * far) },
  })
}

/** What the pointer is over can be dragged at once; pressing chooses it. */
function hover(event: MouseEvent | null): void {
  over = (event?.currentTarget as HTMLElement | null) ?? null
  if (!event?.buttons) void attach()
}
</script>

<template>
  <section class="box">
    <div
      ref="frame"
      class="frame"
      data-test="stage"
      :style="{ aspectRatio: `${size.w} / ${size.h}` }"
      @pointerdown.self="draft.chosen.value = null"
    >
      <StageItem
        v-for="beat in seen"
        :key="beat.id"
        :beat="beat"
        :chosen="beat.id === draft.chosen.value"
        :frame-height="size.h"
        @mouseenter="hover"
        @mouseleave="hover(null)"
        @mousedown="draft.chosen.value = beat.id"
      />
      <div
        :ref="(node) => (tryStage = node as HTMLElement)"
        class="try"
        :class="{ playing }"
        data-test="try-stage"
      ></div>
      <p v-if="!seen.length" class="soft hint">What is seen on the overlay is placed here.</p>
    </div>
    <div class="row under small">
      <span class="soft">{{ overlay?.name ?? 'Overlay' }}, {{ size.w }} × {{ size.h }}</span>
      <span class="grow"></span>
      <label class="row"><input v-model="free" type="checkbox" /> stretch freely</label>
      <div class="nine" role="group" aria-label="Place">
        <button
          v-for="point in NINE"
          :key="`${point.x}/${point.y}`"
          class="dot"
          :disabled="!draft.chosenBeat.value?.place"
          :aria-label="`Place at ${point.x * 100} %, ${point.y * 100} %`"
          @click="put(point)"
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

.under {
  width: 100%;
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
