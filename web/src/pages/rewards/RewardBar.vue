<script setup lang="ts">
/** Changes to several rewards at once; one undo reverts all. */
import { ElPopconfirm } from 'element-plus'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'

const props = defineProps<{ all: string[] }>()
const picked = defineModel<string[]>({ required: true })
const emit = defineEmits<{ change: [change: Partial<Schemas['Change']>]; remove: [] }>()
const book = useBook()
const tag = ref('')
const price = ref<number | null>(null)
/** The choice isn't kept: choosing moves them there. */
const into = ref<string>()
const sets = computed(() => (book.book?.sets ?? []).map((set) => ({ value: set.id, name: set.name })))
const tags = computed(() => [
  ...new Set((book.book?.rewards ?? []).filter((r) => picked.value.includes(r.id)).flatMap((r) => r.tags)),
])

function addTag(): void {
  if (tag.value.trim()) emit('change', { tag: tag.value.trim() })
  tag.value = ''
}

function setPrice(cost: number): void {
  emit('change', { cost })
  price.value = null
}
</script>

<template>
  <div class="bar row" data-test="many">
    <strong>{{ picked.length }} picked</strong>
    <button class="btn tiny" @click="picked = props.all">All {{ props.all.length }}</button>
    <button class="btn tiny" @click="picked = []">None</button>
    <button class="btn tiny" data-test="many-on" @click="emit('change', { on: true })">Switch on</button>
    <button class="btn tiny" data-test="many-off" @click="emit('change', { on: false })">Switch off</button>
    <NumberField
      class="slim"
      :model-value="price"
      :least="1"
      :most="10_000_000"
      whole
      optional
      narrow
      hint="Price"
      aria-label="Price of all"
      @update:model-value="setPrice"
    />
    <PickField
      v-if="sets.length"
      class="slim"
      aria-label="Add to set"
      :model-value="into"
      :choices="sets"
      placeholder="Add to set…"
      @update:model-value="emit('change', { into: $event })"
    />
    <form class="row" @submit.prevent="addTag">
      <input v-model="tag" class="well slim" placeholder="Add tag" aria-label="Add tag" />
    </form>
    <button v-for="name in tags" :key="name" class="btn tiny" @click="emit('change', { untag: name })">
      {{ name }} ✕
    </button>
    <span class="grow"></span>
    <ElPopconfirm
      :persistent="false"
      :title="`Remove ${picked.length} rewards, here and at the channel? Undo makes them again.`"
      confirm-button-text="Remove"
      cancel-button-text="Cancel"
      width="280"
      @confirm="emit('remove')"
    >
      <template #reference><button class="btn tiny danger">Remove</button></template>
    </ElPopconfirm>
  </div>
</template>

<style scoped>
.bar {
  position: sticky;
  top: -16px;
  z-index: 5;
  padding: 8px 14px;
  background: var(--raised);
  border: 1px solid var(--marmalade);
  border-radius: 8px;
  flex-wrap: wrap;
}

.slim {
  width: 116px;
  min-height: 28px;
  padding-block: 2px;
}
</style>
