<script setup lang="ts">
/** The yard drawn: the weathervane on its shed, the water tower with its spout, the turntable with its roads. */
import { computed } from 'vue'

const props = defineProps<{
  values: Record<string, boolean | number | string>
  done: { thing: string; deed: string; number: number }[]
}>()
const angle = computed(() => Number(props.values['vane/angle'] ?? 0))
const open = computed(() => props.values['tower/valve'] === true)
const flow = computed(() => Number(props.values['tower/flow'] ?? 0))
const ROADS = ['Engine shed', 'Goods yard', 'Platform']
const road = computed(() => Math.max(0, ROADS.indexOf(String(props.values['turntable/road']))))
const turn = computed(() => road.value * 60 - 60)
const spins = computed(() => props.done.filter((one) => one.thing === 'vane' && one.deed === 'spin').length)
</script>

<template>
  <svg viewBox="0 0 640 220" role="img" aria-label="The yard">
    <path class="ground" d="M0 196h640v24H0z" />
    <g class="line">
      <path class="body" d="M40 196v-70l60-34 60 34v70z" />
      <path d="M100 92V40" />
      <path d="M74 44h52M100 24v40" opacity=".5" />
      <g :transform="`rotate(${angle + spins * 360} 100 44)`" class="turns">
        <path class="mark" d="M100 6l10 18h-6v44h-8V24h-6z" />
      </g>
      <circle cx="100" cy="124" r="12" :style="{ fill: String(values['vane/lamp'] ?? '#000') }" />
      <path class="body" d="M270 196l12-90h76l12 90M262 48h116v58H262z" />
      <path d="M262 64h116M378 92h34v22" />
      <path v-if="open" class="water" :style="{ strokeWidth: `${4 + flow / 8}px` }" d="M412 122v70" />
      <circle cx="330" cy="78" r="10" :class="{ mark: open }" />
      <circle class="body" cx="536" cy="104" r="56" />
      <g :transform="`rotate(${turn} 536 104)`" class="turns">
        <path class="mark" d="M484 96h104v16H484z" />
      </g>
    </g>
    <text x="536" y="184" text-anchor="middle">{{ values['turntable/plate'] }}</text>
    <text x="536" y="36" text-anchor="middle">to {{ values['turntable/road'] }}</text>
    <text x="412" y="40" text-anchor="middle">{{ open ? `${flow} %` : 'shut' }}</text>
    <text x="168" y="50">{{ Math.round(angle) }}°</text>
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
}

.ground {
  fill: var(--line);
}

.line path,
.line circle,
.line ellipse {
  stroke: var(--ink);
  stroke-width: 2;
  fill: none;
}

.line .body {
  fill: var(--raised);
}

.line .mark {
  fill: var(--marmalade);
  stroke: var(--marmalade);
}

.line .water {
  stroke: var(--sky);
  stroke-linecap: round;
}

.turns {
  transition: transform 300ms;
}

text {
  fill: var(--ink);
  font: 16px var(--text);
}

@media (prefers-reduced-motion: reduce) {
  .turns {
    transition: none;
  }
}
</style>
