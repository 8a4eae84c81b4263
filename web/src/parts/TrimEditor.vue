<script setup lang="ts">
/** What is played of a sound or clip: two handles on its wave form or pictures. The file itself is not touched. */
import { computed, onUnmounted, ref, watch } from 'vue'
import type { Media } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { sayDuration } from '@/logic/duration'
import DurationField from './DurationField.vue'
import WaveForm from './WaveForm.vue'

const props = defineProps<{ entry: Media }>()
const emit = defineEmits<{ trimming: [trim: { from_s: number; to_s: number | null }] }>()
const book = useBook()
const track = ref<HTMLElement>()
const from = ref(0)
const to = ref(0)
const head = ref<number | null>(null)
let player: HTMLMediaElement | null = null
let frame = 0

const LEAST = 0.05
const length = computed(() => props.entry.length_s)
const changed = computed(() => from.value > 0 || to.value < length.value)

watch(
  () => [props.entry.id, props.entry.trim?.from_s, props.entry.trim?.to_s, props.entry.length_s],
  () => {
    from.value = props.entry.trim?.from_s ?? 0
    to.value = Math.min(props.entry.trim?.to_s ?? length.value, length.value)
  },
  { immediate: true },
)
watch([from, to], () => emit('trimming', trim()))

function trim(): { from_s: number; to_s: number | null } {
  return { from_s: from.value, to_s: to.value >= length.value ? null : to.value }
}

function clamp(edge: 'from' | 'to', seconds: number): void {
  const s = Math.round(seconds * 1000) / 1000
  if (edge === 'from') from.value = Math.max(0, Math.min(s, to.value - LEAST))
  else to.value = Math.min(length.value, Math.max(s, from.value + LEAST))
}

async function save(): Promise<void> {
  const found = book.book?.media.find((m) => m.id === props.entry.id)
  if (!found) return
  const value = { ...found, trim: changed.value ? trim() : null }
  if (JSON.stringify(value) !== JSON.stringify(found)) await attempt(() => book.put('media', value))
}

function follow(event: PointerEvent, edge: 'from' | 'to'): void {
  const node = event.currentTarget as HTMLElement
  const box = track.value?.getBoundingClientRect()
  if (!box) return
  node.setPointerCapture(event.pointerId)
  const move = (e: PointerEvent): void => clamp(edge, ((e.clientX - box.left) / box.width) * length.value)
  const up = (): void => {
    node.removeEventListener('pointermove', move)
    node.removeEventListener('pointerup', up)
    void save()
  }
  node.addEventListener('pointermove', move)
  node.addEventListener('pointerup', up)
}

function onKey(event: KeyboardEvent, edge: 'from' | 'to'): void {
  const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  if (!way) return
  event.preventDefault()
  event.stopPropagation()
  clamp(edge, (edge === 'from' ? from.value : to.value) + way * (event.shiftKey ? 0.5 : 0.05))
  void save()
}

function set(edge: 'from' | 'to', seconds: number): void {
  clamp(edge, seconds)
  void save()
}

function whole(): void {
  from.value = 0
  to.value = length.value
  void save()
}

function stop(): void {
  cancelAnimationFrame(frame)
  player?.pause()
  player = null
  head.value = null
}

function play(): void {
  if (player) {
    stop()
    return
  }
  const sound = new Audio(props.entry.url ?? '')
  player = sound
  sound.volume = Math.min(1, 0.8 * 10 ** (props.entry.gain_db / 20))
  sound.currentTime = from.value
  const tick = (): void => {
    head.value = sound.currentTime
    if (sound.currentTime >= to.value || sound.ended) stop()
    else frame = requestAnimationFrame(tick)
  }
  void sound.play().then(tick, stop)
}
onUnmounted(stop)
defineExpose({ set, whole })
</script>

<template>
  <div class="trim">
    <div ref="track" class="track" data-test="trim">
      <img v-if="entry.strip" :src="entry.strip" alt="" draggable="false" />
      <WaveForm v-if="entry.wave.length" :wave="entry.wave" :class="{ over: entry.strip }" />
      <span
        v-for="(flash, i) in entry.flashes"
        :key="i"
        class="flash"
        title="Flashes more than three times a second"
        :style="{
          left: `${(flash.from_s / length) * 100}%`,
          width: `${(Math.max(0.02, flash.to_s - flash.from_s) / length) * 100}%`,
        }"
      ></span>
      <span class="away" :style="{ left: 0, width: `${(from / length) * 100}%` }"></span>
      <span class="away" :style="{ right: 0, width: `${(1 - to / length) * 100}%` }"></span>
      <span v-if="head !== null" class="head" :style="{ left: `${(head / length) * 100}%` }"></span>
      <button
        v-for="edge in ['from', 'to'] as const"
        :key="edge"
        class="handle"
        :data-test="`trim-${edge}`"
        :aria-label="edge === 'from' ? 'Where it begins' : 'Where it ends'"
        :style="{ left: `${((edge === 'from' ? from : to) / length) * 100}%` }"
        @pointerdown="follow($event, edge)"
        @keydown="onKey($event, edge)"
      ></button>
    </div>
    <div class="row">
      <button class="btn tiny" @click="play">{{ head === null ? 'Play' : 'Stop' }}</button>
      <label class="row small soft"
        >from<DurationField :model-value="from" @update:model-value="set('from', $event)"
      /></label>
      <label class="row small soft"
        >to<DurationField :model-value="to" @update:model-value="set('to', $event)"
      /></label>
    </div>
    <div class="row small">
      <span class="soft grow"
        >{{ sayDuration(Math.round((to - from) * 1000) / 1000) }} of {{ sayDuration(length) }} are
        played</span
      >
      <button v-if="changed" class="btn tiny" @click="whole">The whole</button>
    </div>
  </div>
</template>

<style scoped>
.trim {
  display: grid;
  gap: 6px;
  width: 100%;
}

.track {
  position: relative;
  height: 72px;
  background: var(--ground);
  border-radius: 6px;
  touch-action: none;
}

.track img {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: fill;
  border-radius: 6px;
}

.over {
  position: absolute;
  inset: auto 0 0;
  height: 40%;
  opacity: 0.75;
}

.away {
  position: absolute;
  top: 0;
  bottom: 0;
  background: var(--ground);
  opacity: 0.78;
}

.flash {
  position: absolute;
  bottom: 0;
  height: 8px;
  background: var(--berry);
}

.head {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 2px;
  background: var(--berry);
}

.handle {
  position: absolute;
  top: -3px;
  bottom: -3px;
  width: 12px;
  margin-left: -6px;
  padding: 0;
  border: 2px solid var(--ground);
  border-radius: 4px;
  background: var(--marmalade);
  cursor: ew-resize;
  touch-action: none;
}
</style>
