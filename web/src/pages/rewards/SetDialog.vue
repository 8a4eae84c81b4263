<script setup lang="ts">
/** A set: its name, its rewards, where it is on, and a cue by which a pad, a hook or a reward switches it off for a while. */
import { ElCheckbox, ElDialog } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useGear } from '@/composables/useGear'
import { attempt } from '@/composables/useSay'
import { idOf } from '@/logic/ids'
import NamesField from '@/parts/NamesField.vue'

type RewardSet = Schemas['RewardSet']
const props = defineProps<{ set: RewardSet }>()
const open = defineModel<boolean>({ required: true })
const book = useBook()
const gear = useGear()
const router = useRouter()
const draft = ref<RewardSet>({ ...props.set })
watch(
  () => props.set,
  (set) => (draft.value = JSON.parse(JSON.stringify(set)) as RewardSet),
  { immediate: true },
)
const scenes = computed(() => Object.keys(gear.broadcast?.scenes ?? {}))
const isNew = computed(() => !(book.book?.sets ?? []).some((set) => set.id === draft.value.id))
const listed = (text: string): string[] =>
  [...new Set(text.split(/[,\n]/).map((n) => n.trim()))].filter(Boolean)

function member(id: string, on: boolean): void {
  const others = draft.value.rewards.filter((one) => one !== id)
  draft.value.rewards = on ? [...others, id] : others
}

async function save(): Promise<void> {
  const taken = (book.book?.sets ?? []).map((set) => set.id)
  const id = isNew.value ? idOf(draft.value.name, taken) : draft.value.id
  await book.put('sets', { ...draft.value, name: draft.value.name.trim(), id })
  open.value = false
}

async function remove(): Promise<void> {
  await book.remove('sets', draft.value.id)
  open.value = false
}

/** A cue that disables the set until it is released; it has a pad, and hooks and rewards can call it. */
async function switchedBy(): Promise<void> {
  const name = `${draft.value.name} off`
  const id = idOf(
    name,
    (book.book?.cues ?? []).map((cue) => cue.id),
  )
  const beat = { id: 'off', kind: 'reward', sets: [draft.value.id], on: false, length: 'open' }
  await book.put('cues', { id, name, entry: 'overlap', calls: [], beats: [beat] })
  open.value = false
  await router.push(`/cues/${id}`)
}
</script>

<template>
  <ElDialog append-to="#over" v-model="open" :title="isNew ? 'New set' : draft.name" width="560">
    <form class="form" @submit.prevent="attempt(save)">
      <label class="field">
        Name
        <input
          v-model="draft.name"
          class="well"
          maxlength="200"
          placeholder="Between songs"
          data-test="set-name"
        />
      </label>
      <fieldset class="members">
        <legend class="small soft">Rewards</legend>
        <ElCheckbox
          v-for="reward in book.book?.rewards ?? []"
          :key="reward.id"
          :model-value="draft.rewards.includes(reward.id)"
          @update:model-value="member(reward.id, Boolean($event))"
          >{{ reward.title }}</ElCheckbox
        >
        <p v-if="!book.book?.rewards.length" class="soft">No rewards yet.</p>
      </fieldset>
      <label class="field">
        Only in these scenes
        <NamesField v-model="draft.scenes" :known="scenes" placeholder="all scenes" data-test="set-scenes" />
      </label>
      <label class="field">
        Off in these scenes
        <NamesField
          v-model="draft.off_scenes"
          :known="scenes"
          placeholder="none"
          data-test="set-off-scenes"
        />
      </label>
      <label class="field">
        Only in these categories
        <input
          class="well"
          placeholder="all categories"
          :value="draft.categories.join(', ')"
          @change="draft.categories = listed(($event.target as HTMLInputElement).value)"
        />
      </label>
      <p v-if="!isNew" class="small soft">
        A cue can switch it off for a while:
        <button type="button" class="btn tiny" data-test="set-cue" @click="attempt(switchedBy)">
          Create that cue
        </button>
      </p>
    </form>
    <template #footer>
      <button v-if="!isNew" class="btn danger" @click="attempt(remove)">Delete set</button>
      <button class="btn main" :disabled="!draft.name.trim()" data-test="set-save" @click="attempt(save)">
        {{ isNew ? 'Add' : 'Save' }}
      </button>
    </template>
  </ElDialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
}

.members {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(200px, 1fr));
  max-height: 220px;
  overflow: auto;
  margin: 0;
  padding: 4px 10px;
  border: 1px solid var(--line);
  border-radius: 8px;
}
</style>
