<script setup lang="ts">
/** The simulated receiver of hooks: received hooks, and whether their signatures were right. */
import { useStandIn } from './useStandIn'
import WindowFrame from './WindowFrame.vue'

interface BoxState {
  serial: number
  answers: number
  received: { id: string; method: string; body: unknown; signed: boolean; status: number; at: number }[]
}
const { state, problem, hand } = useStandIn<BoxState>('hook', 300)
const ANSWERS = [
  { status: 204, name: 'accepts everything' },
  { status: 403, name: 'refuses everything' },
  { status: 503, name: 'is broken' },
] as const
</script>

<template>
  <WindowFrame name="Hook box" mark="hook" :problem="problem">
    <template v-if="state">
      <div class="row">
        <span>The box</span>
        <button
          v-for="one in ANSWERS"
          :key="one.status"
          class="btn"
          :class="{ on: state.answers === one.status }"
          @click="hand({ answers: one.status })"
        >
          {{ one.name }}
        </button>
      </div>
      <p v-if="!state.received.length" class="soft">No hooks received yet.</p>
      <section
        v-for="(row, i) in [...state.received].reverse().slice(0, 10)"
        :key="i"
        class="card"
        data-test="hook"
      >
        <div class="row">
          <strong>{{ row.method }}</strong>
          <span :class="row.signed ? 'fine' : 'wrong'">{{
            row.signed ? 'valid signature' : 'wrong signature'
          }}</span>
          <span class="soft">answered {{ row.status }}</span>
        </div>
        <pre>{{ JSON.stringify(row.body, null, 1) }}</pre>
      </section>
    </template>
  </WindowFrame>
</template>

<style scoped>
.on {
  border-color: var(--rust);
  border-left-width: 8px;
  font-weight: 700;
}

.fine {
  color: var(--mint);
}

.wrong {
  color: var(--berry);
}

pre {
  margin: 6px 0 0;
  overflow: auto;
}
</style>
