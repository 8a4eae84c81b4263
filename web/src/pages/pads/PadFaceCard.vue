<script setup lang="ts">
import { ElSegmented, ElSwitch } from 'element-plus'
import type { Cue } from '@/api/client'
import { usePadOrder } from '@/composables/usePadOrder'
import { attempt } from '@/composables/useSay'
import { PAD_COLOURS, PAD_MARKS, type Face } from '@/parts/pads/marks'

const props = defineProps<{ cue: Cue }>()
defineEmits<{ done: [] }>()
const { face } = usePadOrder()
const SIZES: { value: Face['size']; label: string }[] = [
  { value: 'small', label: 'Small' },
  { value: 'wide', label: 'Wide' },
  { value: 'large', label: 'Large' },
]

const change = (to: Partial<Face>): void => void attempt(() => face(props.cue, to))
</script>

<template>
  <section class="card" aria-label="This pad">
    <div class="card-title">
      <h2 class="grow">{{ cue.name }}</h2>
      <RouterLink class="small" :to="`/cues/${cue.id}`">Open the cue</RouterLink>
      <button class="btn tiny" @click="$emit('done')">Done</button>
    </div>
    <label class="row">
      <span class="grow">Has a pad</span>
      <ElSwitch
        :model-value="cue.pad.on"
        aria-label="Has a pad"
        @update:model-value="change({ on: Boolean($event) })"
      />
    </label>
    <ElSegmented
      :model-value="cue.pad.size"
      :options="SIZES"
      aria-label="Size"
      @update:model-value="change({ size: $event as Face['size'] })"
    />
    <div class="swatches" role="group" aria-label="Colour">
      <button
        class="swatch none"
        aria-label="No colour"
        :aria-pressed="!cue.pad.colour"
        @click="change({ colour: null })"
      ></button>
      <button
        v-for="colour in PAD_COLOURS"
        :key="colour"
        class="swatch"
        :style="{ background: `var(--${colour})` }"
        :aria-label="colour"
        :title="colour"
        :aria-pressed="cue.pad.colour === colour"
        @click="change({ colour })"
      ></button>
    </div>
    <div class="swatches" role="group" aria-label="Mark">
      <button
        class="swatch none"
        aria-label="No mark"
        :aria-pressed="!cue.pad.mark"
        @click="change({ mark: null })"
      ></button>
      <button
        v-for="(mark, name) in PAD_MARKS"
        :key="name"
        class="swatch mark"
        :aria-label="mark.name"
        :title="mark.name"
        :aria-pressed="cue.pad.mark === name"
        @click="change({ mark: name })"
      >
        <svg viewBox="0 0 24 24" aria-hidden="true">
          <path :d="mark.path" fill="currentColor" fill-rule="evenodd" />
        </svg>
      </button>
    </div>
  </section>
</template>

<style scoped>
.card {
  display: grid;
  gap: 10px;
}

.card-title {
  margin: 0;
}

.swatches {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.swatch {
  width: 34px;
  height: 34px;
  padding: 5px;
  border: 2px solid var(--line);
  border-radius: 8px;
  cursor: pointer;
}

.swatch[aria-pressed='true'] {
  border-color: var(--ink);
  outline: 2px solid var(--marmalade);
}

.none {
  background: linear-gradient(135deg, transparent 46%, var(--soft) 47% 53%, transparent 54%) var(--raised);
}

.mark {
  background: var(--raised);
}
</style>
