<script setup lang="ts">
/** A reward that calls the cue: a new or an existing one. */
import { computed, ref } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import type { Call } from '@/api/client'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'
import { useDraft } from '../draft'

const emit = defineEmits<{ add: [call: Call] }>()
const book = useBook()
const { cue } = useDraft()
const title = ref('')
const cost = ref(300)
const making = ref(false)

const free = computed(() => {
  const used = new Set(cue.value?.calls.map((call) => (call.kind === 'reward' ? call.reward : '')))
  return (book.book?.rewards ?? [])
    .filter((reward) => !used.has(reward.id))
    .map((reward) => ({ value: reward.id, name: reward.title, detail: `${reward.cost}` }))
})

async function newReward(): Promise<void> {
  making.value = true
  await attempt(async () => {
    const made = await book.edit(() =>
      got(
        api.POST('/api/rewards', {
          body: {
            title: title.value || (cue.value?.name ?? ''),
            cost: cost.value,
            text: Boolean(cue.value?.door.text?.need),
            cue: false,
          },
        }),
      ),
    )
    emit('add', { kind: 'reward', reward: made.reward.id })
    title.value = ''
  })
  making.value = false
}
</script>

<template>
  <form v-if="cue" class="row" @submit.prevent="newReward">
    <input
      v-model="title"
      class="well grow"
      :placeholder="`New reward: ${cue.name}`"
      aria-label="New reward title"
      data-test="reward-title"
    />
    <NumberField
      v-model="cost"
      class="cost"
      :least="1"
      aria-label="Cost in points"
      data-test="reward-cost"
      whole
    />
    <button class="btn" data-test="reward-add" :disabled="making">Add</button>
  </form>
  <PickField
    v-if="free.length"
    :model-value="undefined"
    :choices="free"
    placeholder="Existing reward…"
    aria-label="Existing reward"
    data-test="reward-there"
    @update:model-value="emit('add', { kind: 'reward', reward: $event })"
  />
</template>

<style scoped>
.cost {
  width: 84px;
}
</style>
