<script setup lang="ts">
/** The pads as devices and the desk show them: their order and faces; and the paired devices. */
import { ElSegmented } from 'element-plus'
import { computed, ref } from 'vue'
import { usePadOrder } from '@/composables/usePadOrder'
import { useLive } from '@/composables/useLive'
import { keysOf } from '@/logic/pads'
import { attempt } from '@/composables/useSay'
import { PAD_MARKS } from '@/parts/pads/marks'
import PadFaceCard from './PadFaceCard.vue'
import PadsDevices from './PadsDevices.vue'

const live = useLive()
const { ordered, withPad, move } = usePadOrder()
const keys = computed(() => keysOf(withPad.value))
const chosen = ref<string | null>(null)
const dragged = ref<string | null>(null)
const over = ref<string | null>(null)
const tag = ref('')

const tags = computed(() => ['', ...new Set(ordered.value.flatMap((cue) => cue.tags))])
const shown = computed(() =>
  ordered.value.filter((cue) => cue.on && (!tag.value || cue.tags.includes(tag.value))),
)
const cue = computed(() => ordered.value.find((one) => one.id === chosen.value) ?? null)

async function drop(before: string | null): Promise<void> {
  const moved = dragged.value
  dragged.value = over.value = null
  if (moved) await move(moved, before)
}

/** Moves one earlier or later, among those that are shown. */
async function step(id: string, by: -1 | 1): Promise<void> {
  const at = shown.value.findIndex((one) => one.id === id)
  const to = shown.value[by < 0 ? at - 1 : at + 2]
  if ((by < 0 && !to) || (by > 0 && at === shown.value.length - 1)) return
  await move(id, to?.id ?? null)
}

function onKey(event: KeyboardEvent, id: string): void {
  const by = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }[event.key]
  if (!by || !event.altKey) return
  event.preventDefault()
  void attempt(() => step(id, by as -1 | 1))
}
</script>

<template>
  <div class="pads-page">
    <section class="card">
      <div class="card-title">
        <h1 class="title">Pads</h1>
        <span class="soft small grow"
          >Every cue that’s on has one. Drag to reorder; select one to change its look.</span
        >
      </div>
      <ElSegmented
        v-if="tags.length > 2"
        v-model="tag"
        :options="tags.map((value) => ({ value, label: value || 'All' }))"
        aria-label="Page"
        class="tags"
      />
      <ul v-if="shown.length" class="grid" @dragover.prevent @drop.prevent="attempt(() => drop(null))">
        <li
          v-for="one in shown"
          :key="one.id"
          :class="[
            one.pad.size,
            { over: over === one.id, out: !one.pad.on, lit: live.runningCues.has(one.id) },
          ]"
          draggable="true"
          @dragstart="dragged = one.id"
          @dragend="dragged = over = null"
          @dragover.prevent="over = one.id"
          @drop.prevent.stop="attempt(() => drop(one.id))"
        >
          <button
            class="face"
            :aria-pressed="chosen === one.id"
            :data-pad="one.id"
            title="Alt and arrows move it"
            :style="one.pad.colour ? { '--of': `var(--${one.pad.colour})` } : {}"
            @click="chosen = chosen === one.id ? null : one.id"
            @keydown="onKey($event, one.id)"
          >
            <svg v-if="one.pad.mark" viewBox="0 0 24 24" aria-hidden="true">
              <path :d="PAD_MARKS[one.pad.mark].path" fill="currentColor" fill-rule="evenodd" />
            </svg>
            <span class="name">{{ one.name }}</span>
            <kbd v-if="keys.has(one.id)" class="key">{{ keys.get(one.id)?.toUpperCase() }}</kbd>
            <span v-if="!one.pad.on" class="small soft">no pad</span>
          </button>
        </li>
      </ul>
      <p v-else class="soft">
        No cues are on yet. <RouterLink to="/cues">Make one</RouterLink>, and it has a pad.
      </p>
    </section>
    <aside>
      <PadFaceCard v-if="cue" :cue="cue" @done="chosen = null" />
      <PadsDevices />
    </aside>
  </div>
</template>

<style scoped>
.pads-page {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 400px;
  gap: 16px;
  align-items: start;
}

aside {
  display: grid;
  gap: 16px;
}

.title {
  font-size: 20px;
}

.tags {
  margin-bottom: 10px;
  max-width: 100%;
  overflow-x: auto;
}

.key {
  position: absolute;
  top: 4px;
  right: 8px;
  font: 600 12px var(--text);
  color: var(--soft);
}

.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(132px, 1fr));
  grid-auto-rows: minmax(72px, max-content);
  grid-auto-flow: dense;
  gap: 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  border-radius: var(--corner);
}

.wide {
  grid-column: span 2;
}

.large {
  grid-column: span 2;
  grid-row: span 2;
}

.over {
  outline: 2px dashed var(--marmalade);
}

.out {
  opacity: 0.55;
}

.face {
  position: relative;
  --of: var(--line);
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  justify-content: center;
  min-width: 0;
  padding: 6px 10px 6px 14px;
  background: linear-gradient(90deg, var(--of) 6px, var(--raised) 6px);
  border: 1px solid var(--line);
  border-radius: var(--corner);
  font-weight: 700;
  line-height: 1.15;
  text-align: left;
  cursor: grab;
}

.face[aria-pressed='true'] {
  border-color: var(--marmalade);
  box-shadow: inset 0 0 0 1px var(--marmalade);
}

.lit .face {
  border-color: var(--mint);
}

svg {
  width: 20px;
  height: 20px;
  color: var(--of);
}

.name {
  overflow-wrap: anywhere;
}

@media (max-width: 1000px) {
  .pads-page {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
