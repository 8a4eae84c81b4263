<script setup lang="ts">
/** The simulated voice box's window. */
import VoicePicture from '@/parts/gear/VoicePicture.vue'
import { useStandIn, type PanelState } from './useStandIn'
import WindowFrame from './WindowFrame.vue'
import { pathOf } from '@/logic/paths'

const { state, problem, hand } = useStandIn<PanelState>('voice')
const KNOBS = [
  { key: 'pitch', name: 'Pitch, half tones', min: -24, max: 24, step: 1 },
  { key: 'mix', name: 'Mix', min: 0, max: 1, step: 0.05 },
] as const
const number = (key: string): number => Number(state.value?.values[pathOf('voice', key)] ?? 0)
</script>

<template>
  <WindowFrame name="Voice box" mark="voice" :problem="problem">
    <template v-if="state">
      <VoicePicture
        class="picture"
        :preset="String(state.values['voice/preset'])"
        :pitch="number('pitch')"
        :mix="number('mix')"
      />
      <div class="row">
        <button
          v-for="name in state.names.preset"
          :key="name"
          class="btn"
          :class="{ on: name === state.values['voice/preset'] }"
          :data-test="`preset-${name}`"
          @click="hand({ path: 'voice/preset', value: name })"
        >
          {{ name }}
        </button>
      </div>
      <label v-for="knob in KNOBS" :key="knob.key" class="row">
        <span class="name">{{ knob.name }}</span>
        <input
          type="range"
          class="grow"
          :min="knob.min"
          :max="knob.max"
          :step="knob.step"
          :value="number(knob.key)"
          @change="
            hand({
              path: pathOf('voice', knob.key),
              value: Number(($event.target as HTMLInputElement).value),
            })
          "
        />
        <span class="number">{{ Math.round(number(knob.key) * 100) / 100 }}</span>
      </label>
    </template>
  </WindowFrame>
</template>

<style scoped>
.picture {
  max-width: 560px;
}

.on {
  border-color: var(--plum);
  border-left-width: 8px;
  font-weight: 700;
}

.name {
  width: 150px;
}

.number {
  width: 60px;
  text-align: right;
}
</style>
