<script setup lang="ts">
/** Debts to channel and gear, and failed tasks of Cue Jar that are being restarted; hidden without any. */
import { computed } from 'vue'
import { useLive } from '@/composables/useLive'
import { sayNumber, sayTime } from '@/logic/words'

const live = useLive()
const away = computed(() => live.state?.wrong.tasks ?? [])
const owed = computed(() => {
  const { settlements = 0, strikes = 0 } = live.state?.owed ?? {}
  return [
    settlements &&
      `${sayNumber(settlements)} ${settlements === 1 ? 'settlement' : 'settlements'} to the channel`,
    strikes && `${sayNumber(strikes)} ${strikes === 1 ? 'strike' : 'strikes'} to the gear`,
  ].filter(Boolean)
})
const why = computed(() => live.state?.gear.find((gear) => gear.kind === 'channel')?.problem ?? '')
</script>

<template>
  <section v-if="away.length || owed.length" class="card watch" data-test="watch">
    <p v-if="owed.length">
      <strong>Owed</strong> {{ owed.join(', ') }}: sent until it is confirmed.
      <span v-if="why" class="wrong">{{ why }}</span>
    </p>
    <p v-for="task in away" :key="task.name" role="alert">
      <strong class="wrong">“{{ task.name }}” failed</strong> {{ task.problem }}
      <span class="soft small">since {{ sayTime(task.since) }}; it restarts by itself</span>
    </p>
  </section>
</template>

<style scoped>
.watch {
  display: grid;
  gap: 4px;
}

p {
  margin: 0;
}

.wrong {
  color: var(--berry);
}
</style>
