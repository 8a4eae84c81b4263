<script setup lang="ts">
/** A still of something that moves on the overlay, for placing it: a burst in progress, a bar partly full. */
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { AnyBeat, Media } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { drawBar, type BarLook } from '@/overlay/bar'
import { playBurst } from '@/overlay/burst'
import type { ShowMessage } from '@/overlay/types'

const props = defineProps<{ beat: AnyBeat; media?: Media | undefined }>()
const book = useBook()
const box = ref<HTMLElement>()
/** How far an empty bar is shown filled. */
const PART = 0.62
/** The progress of a burst, as a share of its life. */
const ON_ITS_WAY = 0.3
/** How long a still is redrawn while its picture loads. */
const LOADS_MS = 1500
let stop = (): void => {}
let timer = 0

const look = computed(() =>
  JSON.stringify({ ...props.beat, place: undefined, start: undefined, id: undefined }),
)

function bar(node: HTMLElement): void {
  const count = book.book?.counts.find((one) => one.id === props.beat.count)
  const goal = props.beat.goal ?? count?.goal ?? 10
  const now = Math.round(goal * PART)
  const progress = { name: count?.name ?? String(props.beat.count), now, goal }
  drawBar(node, props.beat as unknown as BarLook, progress, `bar-of-${props.beat.id}`)(progress, PART)
}

function burst(node: HTMLElement): void {
  const url = props.media?.kind === 'picture' ? props.media.url : props.media?.poster
  const message = {
    at: 0,
    run: 'stage',
    beat: props.beat.id,
    value: props.media ? props.media.id : props.beat.shape,
    look: props.beat,
    media: url ? [{ url }] : [],
  } as unknown as ShowMessage
  const life = Number(props.beat.life_s ?? 3) * 1000
  stop = playBurst(node, message, () => life * ON_ITS_WAY)
  timer = window.setTimeout(() => stop(), LOADS_MS)
}

function drawAnew(): void {
  stop()
  window.clearTimeout(timer)
  const node = box.value
  if (!node) return
  node.replaceChildren()
  if (props.beat.kind === 'bar') bar(node)
  else burst(node)
}
onMounted(drawAnew)
watch([look, () => props.media?.url, () => book.book?.counts], drawAnew)
onBeforeUnmount(() => {
  stop()
  window.clearTimeout(timer)
})
</script>

<template><div ref="box" class="frame"></div></template>

<style scoped>
.frame {
  position: absolute;
  inset: 0;
  container-type: size;
  pointer-events: none;
}
</style>
