<script setup lang="ts">
/** The simulated wearable's window: what is felt where. */
import type { Schemas } from '@/api/client'
import WearablePicture from '@/parts/gear/WearablePicture.vue'
import { useStandIn, type PanelState } from './useStandIn'
import WindowFrame from './WindowFrame.vue'

interface WearableState extends PanelState {
  pads: Schemas['TouchOut'][]
  outlines: Schemas['OutlineOut'][]
  levels: number[]
  frames: number
}
const { state, problem, hand } = useStandIn<WearableState>('haptics', 80)
</script>

<template>
  <WindowFrame name="Haptics" mark="haptics" :problem="problem">
    <template v-if="state">
      <div class="stand">
        <WearablePicture :pads="state.pads" :outlines="state.outlines" :levels="state.levels" />
      </div>
      <label class="row">
        <span>Strength of the coat itself</span>
        <input
          type="range"
          class="grow"
          min="0"
          max="1"
          step="0.05"
          :value="Number(state.values['haptics/strength'])"
          @change="
            hand({ path: 'haptics/strength', value: Number(($event.target as HTMLInputElement).value) })
          "
        />
        <span>{{ Math.round(Number(state.values['haptics/strength']) * 100) }} %</span>
      </label>
      <p class="soft">{{ state.frames }} frames so far.</p>
    </template>
  </WindowFrame>
</template>

<style scoped>
.stand {
  height: 480px;
}
</style>
