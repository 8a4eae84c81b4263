<script setup lang="ts">
/** The simulated vest's window: what is felt where. */
import VestPicture from '@/parts/gear/VestPicture.vue'
import { useStandIn, type PanelState } from './useStandIn'
import WindowFrame from './WindowFrame.vue'

interface VestState extends PanelState {
  cells: number[]
  frames: number
}
const { state, problem, hand } = useStandIn<VestState>('haptics', 80)
</script>

<template>
  <WindowFrame name="Haptics" mark="haptics" :problem="problem">
    <template v-if="state">
      <div class="stand"><VestPicture :cells="state.cells" /></div>
      <label class="row">
        <span>Strength of the vest itself</span>
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
