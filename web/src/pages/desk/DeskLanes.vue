<script setup lang="ts">
import { ref } from 'vue'
import { api, got } from '@/api/client'
import { useLive, type Waiting } from '@/composables/useLive'
import { attempt, say } from '@/composables/useSay'
import { saidOfLane } from '@/logic/lanes'
import { sayNumber } from '@/logic/words'
import DeskReading from './DeskReading.vue'
import TimeLeft from '@/parts/TimeLeft.vue'
import ViewerName from '@/parts/viewers/ViewerName.vue'

const live = useLive()
const dragged = ref<string | null>(null)
const over = ref<string | null>(null)

async function sendBack(run: string): Promise<void> {
  say((await got(api.POST('/api/runs/{run_id}/drop', { params: { path: { run_id: run } } }))).what, 'fine')
}

async function moveBefore(before: string | null): Promise<void> {
  const run = dragged.value
  dragged.value = over.value = null
  if (run && run !== before)
    await got(api.POST('/api/runs/{run_id}/move', { params: { path: { run_id: run } }, body: { before } }))
}

async function review(redemption: string, ok: boolean): Promise<void> {
  await got(
    api.POST('/api/redemptions/{redemption}/review', { params: { path: { redemption } }, body: { ok } }),
  )
}

function stepUp(line: Waiting[], index: number): void {
  dragged.value = line[index]?.run ?? null
  void attempt(() => moveBefore(line[index - 1]?.run ?? null))
}
</script>

<template>
  <section class="lanes">
    <DeskReading />
    <article v-for="wait in live.state?.reviews.first ?? []" :key="wait.redemption" class="card review row">
      <span class="grow"
        ><strong><ViewerName :id="wait.viewer_id" :name="wait.viewer" /></strong>, {{ wait.reward
        }}{{ wait.text && `: “${wait.text}”` }}</span
      >
      <button class="btn tiny main" @click="attempt(() => review(wait.redemption, true))">Let in</button>
      <button class="btn tiny" @click="attempt(() => review(wait.redemption, false))">Send back</button>
    </article>
    <p
      v-if="(live.state?.reviews.count ?? 0) > (live.state?.reviews.first.length ?? 0)"
      class="soft small more"
    >
      {{ live.state!.reviews.count }} calls need approval; the first are shown.
    </p>
    <article v-for="lane in live.state?.lanes ?? []" :key="lane.id" class="card lane">
      <div class="card-title">
        <h2>
          <RouterLink class="plain" to="/lanes" title="Lane settings">{{ lane.name }}</RouterLink>
        </h2>
        <span class="soft small">{{ saidOfLane(lane) }}</span>
      </div>
      <ol v-if="lane.waiting.length">
        <li
          v-for="(wait, i) in lane.waiting"
          :key="wait.run"
          draggable="true"
          :class="{ over: over === wait.run }"
          @dragstart="dragged = wait.run"
          @dragover.prevent="over = wait.run"
          @drop.prevent="attempt(() => moveBefore(wait.run))"
        >
          <span class="grow who" :title="`${wait.name}, ${wait.viewer}`"
            ><span class="two-lines">{{ wait.name }}</span
            ><span class="soft small cut-off"><ViewerName :id="wait.viewer_id" :name="wait.viewer" /></span
          ></span>
          <span class="soft small" title="Approximate start"
            >in <TimeLeft :until="wait.begins" roughly
          /></span>
          <button
            class="btn tiny bare"
            :disabled="i === 0"
            aria-label="Earlier"
            @click="stepUp(lane.waiting, i)"
          >
            ↑
          </button>
          <button
            class="btn tiny bare"
            title="Send back: points are refunded unless part of it has started"
            :aria-label="`Send ${wait.name} of ${wait.viewer || 'nobody'} back`"
            @click="attempt(() => sendBack(wait.run))"
          >
            ✕
          </button>
        </li>
        <li v-if="lane.waits > lane.waiting.length" class="soft small more" data-test="more-waiting">
          and {{ sayNumber(lane.waits - lane.waiting.length) }} more waiting
        </li>
        <li
          v-if="dragged"
          class="last soft"
          @dragover.prevent="over = null"
          @drop.prevent="attempt(() => moveBefore(null))"
        >
          last
        </li>
      </ol>
    </article>
  </section>
</template>

<style scoped>
.plain {
  color: inherit;
  text-decoration: none;
}

.plain:hover {
  text-decoration: underline;
}

.lanes {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(260px, 1fr));
  gap: 8px;
  align-content: start;
}

.review,
.lanes > p,
.lanes > .reading {
  grid-column: 1 / -1;
}

.lane {
  padding-block: 8px;
}

.lane .card-title {
  margin-bottom: 2px;
}

ol {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
}

li {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 3px 6px;
  border-top: 2px solid transparent;
  cursor: grab;
}

.who {
  display: grid;
  line-height: 1.15;
}

li .btn.bare {
  padding-inline: 6px;
}

li:nth-child(odd) {
  background: var(--ground);
}

li.over {
  border-top-color: var(--marmalade);
}

.more {
  margin: 0;
  cursor: default;
}

.review {
  border-color: var(--marmalade);
}
</style>
