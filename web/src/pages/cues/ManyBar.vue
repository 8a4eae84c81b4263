<script setup lang="ts">
/** Changes to several cues at once; one undo reverts all. */
import { ElOption, ElPopconfirm } from 'element-plus'
import { computed, ref } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import PickField from '@/parts/PickField.vue'

const props = defineProps<{ all: string[] }>()
const picked = defineModel<string[]>({ required: true })
const book = useBook()
const tag = ref('')
/** The choice isn't kept: choosing moves them. */
const lane = ref<string>()
const there = computed(() => picked.value.filter((id) => book.book?.cues.some((cue) => cue.id === id)))
const tags = computed(() => [
  ...new Set((book.book?.cues ?? []).filter((c) => there.value.includes(c.id)).flatMap((c) => c.tags)),
])
const handOn = computed(
  () => `/api/carry/cues.zip?${there.value.map((id) => `cue=${encodeURIComponent(id)}`).join('&')}`,
)

const LOUDER: Record<string, Partial<Schemas['ManyIn']>> = {
  '+3 dB': { louder_db: 3 },
  '−3 dB': { louder_db: -3 },
  '−6 dB': { louder_db: -6 },
  '−12 dB': { louder_db: -12 },
  '100 %': { volume: 100 },
}

async function change(change: Partial<Schemas['ManyIn']>): Promise<void> {
  const body = { cues: there.value, remove: false, ...change } as Schemas['ManyIn']
  await attempt(() => book.edit(() => got(api.POST('/api/cues/many', { body }))))
}

async function addTag(): Promise<void> {
  if (tag.value.trim()) await change({ tag: tag.value.trim() })
  tag.value = ''
}
</script>

<template>
  <div v-if="there.length" class="bar row" data-test="many">
    <strong>{{ there.length }} picked</strong>
    <button class="btn tiny" @click="picked = props.all">All {{ props.all.length }}</button>
    <button class="btn tiny" @click="picked = []">None</button>
    <button class="btn tiny" data-test="many-on" @click="change({ on: true })">Switch on</button>
    <button class="btn tiny" data-test="many-off" @click="change({ on: false })">Switch off</button>
    <PickField
      class="slim"
      aria-label="Move to a lane"
      :model-value="lane"
      placeholder="Move to lane…"
      @update:model-value="change({ lane: $event })"
    >
      <ElOption v-for="one in book.book?.lanes ?? []" :key="one.id" :value="one.id" :label="one.name" />
    </PickField>
    <PickField
      class="slim"
      aria-label="Change volume"
      :model-value="undefined"
      placeholder="Volume…"
      data-test="many-volume"
      @update:model-value="change(LOUDER[$event] ?? {})"
    >
      <ElOption v-for="(_, name) in LOUDER" :key="name" :value="name" :label="name" />
    </PickField>
    <form class="row" @submit.prevent="addTag">
      <input v-model="tag" class="well slim" placeholder="Add tag" aria-label="Add tag" />
    </form>
    <button v-for="name in tags" :key="name" class="btn tiny" @click="change({ untag: name })">
      {{ name }} ✕
    </button>
    <span class="grow"></span>
    <a class="btn tiny" :href="handOn" download title="One file with everything they need" data-test="hand-on"
      >Share…</a
    >
    <ElPopconfirm
      :persistent="false"
      :title="`Remove ${there.length} cues? Undo brings them back.`"
      confirm-button-text="Remove"
      cancel-button-text="Cancel"
      width="260"
      @confirm="change({ remove: true })"
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
  width: 130px;
  min-height: 28px;
  padding: 2px 8px;
}
</style>
