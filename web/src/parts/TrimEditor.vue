<script setup lang="ts">
/** The part of a sound or clip that plays: a stretch of its wave form or pictures between two handles. The file itself stays. */
import { useEventListener } from '@vueuse/core'
import { computed, onMounted, onUnmounted, ref, shallowReactive, watch } from 'vue'
import WaveSurfer from 'wavesurfer.js'
import RegionsPlugin, { type Region } from 'wavesurfer.js/plugins/regions'
import type { Media } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { sayDuration } from '@/logic/duration'
import DurationField from './DurationField.vue'

const props = defineProps<{ entry: Media }>()
const emit = defineEmits<{ trimming: [trim: { from_s: number; to_s: number | null }] }>()
const book = useBook()
const track = ref<HTMLElement>()
const from = ref(0)
const to = ref(0)
const playing = ref(false)
let surfer: WaveSurfer | null = null
let region: Region | null = null
const handles = shallowReactive(new Map<'from' | 'to', HTMLElement>())

const LEAST = 0.05
const TALL = 72
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
  surfer?.pause()
}

function play(): void {
  if (playing.value) stop()
  else if (surfer) {
    surfer.setVolume(Math.min(1, 0.8 * 10 ** (props.entry.gain_db / 20)))
    surfer.play(from.value, to.value).catch(stop)
  }
}

/** The region's two edges can also be reached and moved by keys. */
function nameHandles(node: HTMLElement | null): void {
  for (const [edge, side] of [
    ['from', 'left'],
    ['to', 'right'],
  ] as const) {
    const handle = node?.querySelector<HTMLElement>(`[part~="region-handle-${side}"]`)
    if (!handle) continue
    handle.tabIndex = 0
    handle.setAttribute('role', 'slider')
    handle.setAttribute('aria-label', edge === 'from' ? 'Start' : 'End')
    useEventListener(handle, 'keydown', (event: KeyboardEvent) => onKey(event, edge))
    handles.set(edge, handle)
  }
}

/** What a screen reader says of the ends. */
watch([from, to, length, handles], () => {
  for (const [edge, handle] of handles) {
    const at = edge === 'from' ? from.value : to.value
    handle.setAttribute('aria-valuemin', '0')
    handle.setAttribute('aria-valuemax', String(length.value))
    handle.setAttribute('aria-valuenow', String(at))
    handle.setAttribute('aria-valuetext', sayDuration(at))
  }
})

onMounted(() => {
  if (!track.value) return
  const colours = getComputedStyle(track.value)
  const wave = props.entry.wave.length ? colours.getPropertyValue('--straw') : 'transparent'
  const regions = RegionsPlugin.create()
  surfer = WaveSurfer.create({
    container: track.value,
    height: TALL,
    url: props.entry.url ?? undefined,
    peaks: [props.entry.wave.length ? props.entry.wave : [0, 0]],
    duration: length.value,
    waveColor: wave,
    progressColor: wave,
    cursorColor: colours.getPropertyValue('--berry'),
    cursorWidth: 2,
    hideScrollbar: true,
    plugins: [regions],
  })
  surfer.on('play', () => (playing.value = true))
  surfer.on('pause', () => (playing.value = false))
  surfer.on('finish', () => (playing.value = false))
  surfer.once('ready', () => {
    region = regions.addRegion({
      start: from.value,
      end: to.value,
      drag: false,
      minLength: LEAST,
      color: 'transparent',
    })
    nameHandles(region.element)
    region.on('update', (side) => {
      if (region && side)
        clamp(side === 'start' ? 'from' : 'to', side === 'start' ? region.start : region.end)
    })
    region.on('update-end', () => void save())
  })
})
watch(
  () => [props.entry.url, props.entry.wave, length.value] as const,
  ([url, wave, seconds]) => void surfer?.load(url ?? '', [wave.length ? wave : [0, 0]], seconds),
)
watch([from, to], ([start, end]) => region?.setOptions({ start, end }))
onUnmounted(() => surfer?.destroy())
defineExpose({ set, whole })
</script>

<template>
  <div class="trim">
    <div ref="track" class="track" data-test="trim">
      <img v-if="entry.strip" :src="entry.strip" alt="" draggable="false" />
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
    </div>
    <div class="row">
      <button class="btn tiny" @click="play">{{ playing ? 'Stop' : 'Play' }}</button>
      <label class="row small soft"
        >from<DurationField :model-value="from" @update:model-value="set('from', $event)"
      /></label>
      <label class="row small soft"
        >to<DurationField :model-value="to" @update:model-value="set('to', $event)"
      /></label>
    </div>
    <div class="row small">
      <span class="soft grow"
        >{{ sayDuration(Math.round((to - from) * 1000) / 1000) }} of {{ sayDuration(length) }} plays</span
      >
      <button v-if="changed" class="btn tiny" @click="whole">Whole file</button>
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
  overflow: hidden;
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

.flash {
  position: absolute;
  bottom: 0;
  height: 8px;
  background: var(--berry);
}

/* What is not played is dark on both sides of what is. */
.track :deep(*)::part(region) {
  box-shadow: 0 0 0 4000px color-mix(in srgb, var(--ground) 78%, transparent);
}

.track :deep(*)::part(region-handle) {
  width: 12px;
  border: 2px solid var(--ground);
  border-radius: 4px;
  background: var(--marmalade);
  cursor: ew-resize;
}

.track :deep(*)::part(region-handle-left) {
  transform: translateX(-2px);
}
</style>
