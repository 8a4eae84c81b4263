<script setup lang="ts">
/** Rewards made elsewhere at a channel: their restrictions, and how to replace them with ours. */
import { ref } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import OutputMark from '@/parts/OutputMark.vue'

defineProps<{ others: Schemas['OtherOut'][] }>()
const emit = defineEmits<{ changed: [] }>()
const book = useBook()
const said = ref('')

async function takeIn(other: Schemas['OtherOut']): Promise<void> {
  const body = { channel: other.channel, id: other.id }
  await book.edit(() => got(api.POST('/api/rewards/take-in', { body })))
  emit('changed')
}

async function takeOver(other: Schemas['OtherOut']): Promise<void> {
  const body = { channel: other.channel, id: other.id }
  const made = await book.edit(() => got(api.POST('/api/rewards/take-over', { body })))
  said.value = made.by_hand
  emit('changed')
}
</script>

<template>
  <section class="card" aria-label="Made elsewhere" data-test="others">
    <div class="card-title">
      <h2>Made elsewhere</h2>
      <span class="soft small">Cue Jar can’t change these, or refund what is redeemed.</span>
    </div>
    <p v-if="said" class="said" role="status">{{ said }}</p>
    <ul>
      <li v-for="other in others" :key="other.channel + other.id" class="row">
        <OutputMark of="reward" />
        <span class="grow cut-off"
          ><strong>{{ other.title }}</strong>
          <span class="soft">at {{ other.name }}, {{ other.cost.toLocaleString() }}</span></span
        >
        <span v-if="other.reward" class="soft small">calls cues</span>
        <button
          v-else
          class="btn tiny"
          title="It can call a cue, nothing more"
          @click="attempt(() => takeIn(other))"
        >
          Use as is
        </button>
        <button class="btn tiny" data-test="take-over" @click="attempt(() => takeOver(other))">
          Take over
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 0;
  list-style: none;
}

.said {
  margin: 0 0 8px;
  color: var(--marmalade);
}
</style>
