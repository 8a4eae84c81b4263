<script setup lang="ts">
/** The simulated keys' window: a made-up program in which combinations toggle things. */
import KeyCaps from '@/parts/gear/KeyCaps.vue'
import { useStandIn } from './useStandIn'
import WindowFrame from './WindowFrame.vue'

interface KeysState {
  serial: number
  toggles: { combo: string; what: string; on: boolean }[]
  taps: { combo: string; by: string; at: number; number: number }[]
}
const { state, problem, hand } = useStandIn<KeysState>('keys', 150)
</script>

<template>
  <WindowFrame name="Keys" mark="keys" :problem="problem">
    <template v-if="state">
      <section class="board">
        <button
          v-for="row in state.toggles"
          :key="row.combo"
          class="card switch"
          :class="{ on: row.on }"
          :data-test="`toggle-${row.combo}`"
          :data-on="row.on"
          @click="hand({ combo: row.combo })"
        >
          <strong>{{ row.what }}</strong>
          <span class="far lamp">{{ row.on ? 'on' : 'off' }}</span>
          <KeyCaps :combo="row.combo" :on="row.on" />
        </button>
      </section>
      <p class="soft small">
        Click to press keys by hand. Cue Jar can’t see that: correct it on its Rig page.
      </p>
      <h2>Recent key presses</h2>
      <p v-if="!state.taps.length" class="soft">Nothing yet.</p>
      <ol>
        <li v-for="tap in [...state.taps].reverse().slice(0, 12)" :key="tap.number">
          <KeyCaps :combo="tap.combo" />
          <span class="soft">{{ tap.by === 'hand' ? 'by hand' : 'by Cue Jar' }}</span>
        </li>
      </ol>
    </template>
  </WindowFrame>
</template>

<style scoped>
.board {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 12px;
}

.switch {
  display: grid;
  gap: 8px;
  justify-items: start;
  cursor: pointer;
  color: inherit;
  text-align: left;
}

.switch.on {
  border-color: var(--marmalade);
  border-left-width: 8px;
}

.lamp {
  color: var(--soft);
}

.on .lamp {
  color: var(--marmalade);
}

ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
}

li {
  display: flex;
  gap: 12px;
  align-items: center;
}
</style>
