<script setup lang="ts">
/** A count that calls the cue: at a value, every Nth one, or at its goal. */
import { computed, ref } from 'vue'
import { ElOption } from 'element-plus'
import { useBook } from '@/composables/useBook'
import type { Call } from '@/api/client'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'

type How = 'every' | 'at' | 'goal'
const emit = defineEmits<{ add: [call: Call] }>()
const book = useBook()
const counts = computed(() => book.book?.counts ?? [])
const chosen = ref('')
const count = computed(() => counts.value.find((one) => one.id === chosen.value) ?? counts.value[0])
const how = ref<How>('every')
const number = ref(10)

function add(): void {
  if (!count.value) return
  const asked = { at: null, every: null, goal: how.value === 'goal' }
  const call = how.value === 'goal' ? asked : { ...asked, [how.value]: number.value }
  emit('add', { kind: 'count', count: count.value.id, ...call } as Call)
}
</script>

<template>
  <div v-if="count" class="count">
    <PickField
      :model-value="count.id"
      :choices="counts.map((one) => ({ value: one.id, name: one.name }))"
      aria-label="Which count"
      data-test="call-count"
      @update:model-value="chosen = String($event)"
    />
    <PickField v-model="how" aria-label="When" data-test="count-how">
      <ElOption value="every" label="every" />
      <ElOption value="at" label="reaches" />
      <ElOption v-if="count.goal" value="goal" :label="`its goal, ${count.goal}`" />
    </PickField>
    <NumberField
      v-if="how !== 'goal'"
      v-model="number"
      :least="1"
      whole
      aria-label="Number"
      data-test="count-number"
    />
    <button class="btn" data-test="add-count-call" @click="add">Add</button>
  </div>
  <p v-else class="soft small">
    No counts yet. <RouterLink to="/counts">Add one on the Counts page</RouterLink>
  </p>
</template>

<style scoped>
.count {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 92px auto;
  gap: 8px;
  align-items: center;
}

.count > :first-child {
  grid-column: 1 / -1;
}
</style>
