<script setup lang="ts">
/** The simulated lamps' window. */
import LampsPicture from '@/parts/gear/LampsPicture.vue'
import { useStandIn } from './useStandIn'
import WindowFrame from './WindowFrame.vue'

interface LampsState {
  serial: number
  lamps: { id: string; name: string; shown: string; profile: string; universe: number; address: number }[]
  source: string
  streaming: boolean
  frames: number
  lost: number
}

const { state, problem } = useStandIn<LampsState>('lights', 120)
</script>

<template>
  <WindowFrame
    name="Lamps"
    mark="light"
    note="a stand-in; its wire has no way back, so the hand is the Rig page"
    :problem="problem"
  >
    <template v-if="state">
      <div class="card stand"><LampsPicture :lamps="state.lamps" /></div>
      <p class="soft">
        {{ state.streaming ? `${state.source} is streaming` : 'No sender' }}; {{ state.frames }} frames,
        {{ state.lost }} lost.
      </p>
      <table class="small">
        <thead>
          <tr>
            <th>Lamp</th>
            <th>Profile</th>
            <th>Universe</th>
            <th>Address</th>
            <th>Shines</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="lamp in state.lamps" :key="lamp.id">
            <td>{{ lamp.name }}</td>
            <td>{{ lamp.profile.replace('_', ' and ') }}</td>
            <td>{{ lamp.universe }}</td>
            <td>{{ lamp.address }}</td>
            <td>{{ lamp.shown }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </WindowFrame>
</template>

<style scoped>
.stand {
  height: 300px;
}

table {
  border-collapse: collapse;
}

th,
td {
  text-align: left;
  padding: 4px 14px 4px 0;
  border-bottom: 1px solid var(--line);
}
</style>
