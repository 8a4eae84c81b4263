<script setup lang="ts">
/** A channel: whether the stream is on, how many rewards it has, what it is still owed. */
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { sayNumber } from '@/logic/words'

const props = defineProps<{ channel: string }>()
const book = useBook()
const live = useLive()
const rewards = computed(
  () => (book.book?.rewards ?? []).filter((one) => !one.channel || one.channel === props.channel).length,
)
const owed = computed(() => live.state?.owed.settlements ?? 0)
</script>

<template>
  <dl>
    <div>
      <dt>Stream</dt>
      <dd :class="{ on: live.state?.on_air }">{{ live.state?.on_air ? 'on air' : 'off air' }}</dd>
    </div>
    <div>
      <dt>Rewards at the channel</dt>
      <dd>{{ sayNumber(rewards) }}</dd>
    </div>
    <div>
      <dt>Refunds and confirmations pending</dt>
      <dd :class="{ late: owed > 0 }">{{ sayNumber(owed) }}</dd>
    </div>
  </dl>
</template>

<style scoped>
dl {
  display: grid;
  gap: 8px;
  align-content: center;
  height: 100%;
  margin: 0;
  padding: 0 20px;
}

div {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}

dt {
  color: var(--soft);
}

dd {
  margin: 0;
  font: 640 20px var(--display);
}

.on {
  color: var(--mint);
}

.late {
  color: var(--marmalade);
}
</style>
