<script setup lang="ts">
/** The named sets: one press switches all rewards of one, and shows only those. */
import { ElSwitch } from 'element-plus'
import { ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { idOf } from '@/logic/ids'
import SetDialog from './SetDialog.vue'

type RewardSet = Schemas['RewardSet']
/** The set that the rewards are filtered by. */
const shown = defineModel<string>({ required: true })
const props = defineProps<{ picked: string[] }>()
const book = useBook()
const editing = ref<RewardSet | null>(null)
const open = ref(false)

function edit(set: RewardSet): void {
  editing.value = set
  open.value = true
}

function add(): void {
  const taken = (book.book?.sets ?? []).map((set) => set.id)
  edit({
    id: idOf('set', taken),
    name: '',
    rewards: [...props.picked],
    on: true,
    scenes: [],
    off_scenes: [],
    categories: [],
  })
}

function where(set: RewardSet): string {
  const off = set.off_scenes.length ? [`not in ${set.off_scenes.join(', ')}`] : []
  return [...set.scenes, ...off, ...set.categories].join(', ')
}
</script>

<template>
  <section class="sets row" aria-label="Sets">
    <span
      v-for="set in book.book?.sets ?? []"
      :key="set.id"
      class="set row"
      :class="{ shown: shown === set.id }"
    >
      <ElSwitch
        :model-value="set.on"
        size="small"
        :aria-label="`Set ${set.name} on`"
        @update:model-value="(on) => attempt(() => book.put('sets', { ...set, on: Boolean(on) }))"
      />
      <button
        class="name"
        :aria-pressed="shown === set.id"
        :title="`Show only these ${set.rewards.length}`"
        @click="shown = shown === set.id ? '' : set.id"
      >
        {{ set.name }} <span class="soft small">{{ set.rewards.length }}</span>
      </button>
      <span v-if="where(set)" class="soft small" title="On only in these">{{ where(set) }}</span>
      <button class="btn bare tiny" :aria-label="`Change the set ${set.name}`" @click="edit(set)">…</button>
    </span>
    <button class="btn tiny" data-test="new-set" @click="add">
      {{ picked.length ? `New set of ${picked.length}` : 'New set' }}
    </button>
    <SetDialog v-if="editing" v-model="open" :set="editing" />
  </section>
</template>

<style scoped>
.sets {
  flex-wrap: wrap;
}

.set {
  flex-wrap: nowrap;
  padding: 2px 4px 2px 10px;
  border: 1px dashed var(--line);
  border-radius: 8px;
}

.shown {
  border: 1px solid var(--marmalade);
}

.name {
  padding: 4px 0;
  border: 0;
  background: none;
  cursor: pointer;
}
</style>
