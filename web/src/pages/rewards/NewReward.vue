<script setup lang="ts">
import { ElCheckbox, ElDialog } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'
import { sayMinutes } from '@/logic/duration'
import NumberField from '@/parts/NumberField.vue'

const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ made: [] }>()
const book = useBook()
const router = useRouter()
const title = ref('')
const cost = ref(300)
const text = ref(false)
const minutes = computed(() => cost.value / (book.book?.house.points_per_min ?? 10))
watch(open, (is) => {
  if (is) title.value = ''
})

async function make(then: 'cue' | 'stay'): Promise<void> {
  const body = { title: title.value.trim(), cost: cost.value, text: text.value, cue: true }
  const made = await book.edit(() => got(api.POST('/api/rewards', { body })))
  emit('made')
  open.value = false
  say(`${made.reward.title} is being sent to the channel.`, 'fine')
  if (then === 'cue' && made.cue) await router.push(`/cues/${made.cue}`)
}
</script>

<template>
  <ElDialog append-to="#over" v-model="open" title="New reward" width="440">
    <form class="form" @submit.prevent="attempt(() => make('cue'))">
      <label class="field">
        Title
        <input
          v-model="title"
          class="well"
          maxlength="200"
          placeholder="Tea break"
          data-test="title"
          autofocus
        />
      </label>
      <label class="field">
        Price
        <NumberField
          :model-value="cost"
          :least="1"
          :most="10_000_000"
          whole
          aria-label="Price"
          @update:model-value="cost = $event"
        />
        <span>{{ sayMinutes(minutes) }} of watching</span>
      </label>
      <ElCheckbox v-model="text">Ask for text</ElCheckbox>
    </form>
    <template #footer>
      <button
        class="btn"
        :disabled="!title.trim()"
        data-test="make-stay"
        @click="attempt(() => make('stay'))"
      >
        Create
      </button>
      <button class="btn main" :disabled="!title.trim()" data-test="make" @click="attempt(() => make('cue'))">
        Create and build its cue
      </button>
    </template>
  </ElDialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
}
</style>
