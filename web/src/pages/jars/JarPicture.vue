<script setup lang="ts">
/** A jar whose layers are its entries, as thick as their share. Dragging an edge moves share from one layer to the next. */
import { computed, ref } from 'vue'
import { followPointer } from '@/composables/followPointer'
import { layerColour } from './layers'

interface Entry {
  value: string
  weight: number
  on: boolean
}

const props = defineProps<{ entries: Entry[]; small?: boolean }>()
const emit = defineEmits<{ weigh: [weights: number[]] }>()
const box = ref<SVGSVGElement>()
const moved = ref<number[] | null>(null)

const TOP = 34
const TALL = 160

const weights = computed(() => moved.value ?? props.entries.map((entry) => (entry.on ? entry.weight : 0)))
const sum = computed(() => weights.value.reduce((a, b) => a + b, 0))
const layers = computed(() => {
  let y = TOP + TALL
  return props.entries.map((entry, i) => {
    const tall = sum.value ? ((weights.value[i] ?? 0) / sum.value) * TALL : 0
    y -= tall
    return { entry, y, tall, colour: layerColour(i) }
  })
})

function drag(index: number, event: PointerEvent): void {
  const scale = 200 / (box.value?.getBoundingClientRect().height ?? 200)
  const from = event.clientY
  const start = [...weights.value]
  const move = (e: PointerEvent): void => {
    const share = ((e.clientY - from) * scale * sum.value) / TALL
    const [below, above] = [start[index] ?? 0, start[index + 1] ?? 0]
    const by = Math.max(-above, Math.min(below, share))
    moved.value = start.map((w, i) => (i === index ? below - by : i === index + 1 ? above + by : w))
  }
  const up = (): void => {
    if (moved.value)
      emit(
        'weigh',
        moved.value.map((w) => Math.round(w * 1000) / 1000),
      )
    moved.value = null
  }
  followPointer(event, move, up)
}
</script>

<template>
  <svg
    ref="box"
    viewBox="0 0 140 200"
    :width="small ? 56 : 252"
    :height="small ? 80 : 360"
    aria-hidden="true"
  >
    <clipPath :id="small ? undefined : 'inside'">
      <path d="M36 30h68v6c0 8 22 10 22 30v110a20 20 0 0 1-20 20H34a20 20 0 0 1-20-20V66c0-20 22-22 22-30z" />
    </clipPath>
    <g :clip-path="small ? 'inset(0 10% 2% 10% round 8px)' : 'url(#inside)'">
      <rect
        v-for="layer in layers"
        :key="layer.entry.value"
        x="0"
        width="140"
        :y="layer.y"
        :height="layer.tall"
        :fill="layer.colour"
      />
      <template v-if="!small">
        <text
          v-for="layer in layers.filter((l) => l.tall > 11)"
          :key="`t${layer.entry.value}`"
          x="70"
          :y="layer.y + layer.tall / 2 + 3"
          class="share"
        >
          {{ ((layer.tall / TALL) * 100).toFixed(layer.tall > 16 ? 1 : 0) }} %
        </text>
      </template>
    </g>
    <path
      d="M36 30h68v6c0 8 22 10 22 30v110a20 20 0 0 1-20 20H34a20 20 0 0 1-20-20V66c0-20 22-22 22-30z"
      fill="none"
      stroke="var(--ink)"
      stroke-width="3.5"
    />
    <rect x="30" y="8" width="80" height="20" rx="5" fill="var(--marmalade)" />
    <template v-if="!small">
      <rect
        v-for="(layer, i) in layers.slice(0, -1)"
        :key="`e${layer.entry.value}`"
        x="14"
        width="112"
        :y="layer.y - 4"
        height="8"
        class="edge"
        :data-test="`edge-${i}`"
        @pointerdown="drag(i, $event)"
      >
        <title>Drag: share moves between {{ layer.entry.value }} and the one above</title>
      </rect>
    </template>
  </svg>
</template>

<style scoped>
.share {
  font: 700 9px var(--display);
  fill: var(--ground);
  text-anchor: middle;
}

.edge {
  fill: transparent;
  cursor: ns-resize;
  touch-action: none;
}

.edge:hover {
  fill: var(--ink);
  fill-opacity: 0.35;
}
</style>
