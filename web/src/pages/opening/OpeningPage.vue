<script setup lang="ts">
/** Opening night: from an empty folder to a first call, five stations on a line. */
import { ref, watch, type Component } from 'vue'
import { useOpening } from '@/composables/useOpening'
import { STATIONS, type StationId } from '@/logic/opening'
import CallStation from './CallStation.vue'
import CueStation from './CueStation.vue'
import HearStation from './HearStation.vue'
import MoveStation from './MoveStation.vue'
import SeenStation from './SeenStation.vue'

const INSIDE: Record<StationId, Component> = {
  hear: HearStation,
  seen: SeenStation,
  move: MoveStation,
  cue: CueStation,
  call: CallStation,
}
const { said, done, open, leaveOut } = useOpening()
/** The station opened by hand; otherwise the first that isn't done yet. */
const shown = ref<StationId | null>(open.value)
watch(open, (now, before) => {
  // The last one stays open, so that you see how its call ends; the gear's too, as there may be more of it.
  const stays = before === 'call' || before === 'move'
  if ((shown.value === before && !stays) || shown.value === null) shown.value = now
})

function leave(station: StationId): void {
  leaveOut(station, !said.value.leftOut.includes(station))
  shown.value = open.value
}

function state(station: StationId): string {
  if (done.value[station]) return 'done'
  return said.value.leftOut.includes(station) ? 'skipped' : ''
}
</script>

<template>
  <div class="opening">
    <header>
      <h1>Opening night</h1>
      <p class="soft">
        Five stations to the first call. A lamp turns green once its station works. Skip any and come back
        later. Already have a book?
        <RouterLink to="/books" data-test="bring-a-book">Import it</RouterLink>
      </p>
    </header>
    <ol class="line">
      <li
        v-for="station in STATIONS"
        :key="station.id"
        class="station"
        :class="{ done: done[station.id], out: !done[station.id] && said.leftOut.includes(station.id) }"
        :data-station="station.id"
        :data-done="done[station.id]"
      >
        <i class="lamp" aria-hidden="true"></i>
        <section class="card">
          <h2>
            <button
              class="head"
              :aria-expanded="shown === station.id"
              @click="shown = shown === station.id ? null : station.id"
            >
              <span class="title">{{ station.title }}</span>
              <span class="soft small grow">{{ station.why }}</span>
              <span v-if="state(station.id)" class="state small">{{ state(station.id) }}</span>
            </button>
          </h2>
          <div v-if="shown === station.id" class="inside">
            <component :is="INSIDE[station.id]" />
            <div v-if="station.id === 'move' && done.move && open" class="row">
              <span class="grow"></span>
              <button class="btn main" data-test="go-on" @click="shown = open">Next</button>
            </div>
            <div v-if="!done[station.id]" class="row">
              <span class="grow"></span>
              <button class="btn bare tiny" data-test="leave-out" @click="leave(station.id)">
                {{ said.leftOut.includes(station.id) ? 'Come back' : 'Skip' }}
              </button>
            </div>
          </div>
        </section>
      </li>
    </ol>
    <p v-if="!open" class="card arrived">
      <strong class="far">You’re on.</strong>
      <RouterLink class="btn main" to="/desk">Go to the desk</RouterLink>
      <RouterLink class="btn" to="/cues">More cues</RouterLink>
    </p>
  </div>
</template>

<style scoped>
.opening {
  max-width: 860px;
  margin: 0 auto;
  display: grid;
  gap: 14px;
}

header p {
  margin: 4px 0 0;
}

.line {
  list-style: none;
  margin: 0;
  padding: 0;
}

.station {
  position: relative;
  padding: 0 0 12px 46px;
}

/* The track from lamp to lamp. */
.station:not(:last-child)::before {
  content: '';
  position: absolute;
  left: 15px;
  top: 30px;
  bottom: -18px;
  border-left: 4px dotted var(--line);
}

.station.done:not(:last-child)::before {
  border-left: 4px solid var(--mint);
}

.lamp {
  position: absolute;
  left: 4px;
  top: 14px;
  width: 26px;
  height: 26px;
  box-sizing: border-box;
  border-radius: 50%;
  border: 3px solid var(--soft);
  background: var(--ground);
}

.done > .lamp {
  background: var(--mint);
  border-color: var(--mint);
  box-shadow: 0 0 14px color-mix(in srgb, var(--mint) 60%, transparent);
}

.out > .lamp {
  border-style: dashed;
}

h2 {
  margin: 0;
}

.head {
  display: flex;
  align-items: baseline;
  gap: 12px;
  width: 100%;
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.title {
  font: 680 20px var(--display);
}

.head .small {
  font-weight: 400;
  font-family: var(--text);
}

.state {
  color: var(--soft);
}

.done .state {
  color: var(--mint);
}

.inside {
  display: grid;
  gap: 10px;
  padding-top: 12px;
}

.arrived {
  display: flex;
  align-items: center;
  gap: 14px;
  margin: 0 0 0 46px;
}
</style>
