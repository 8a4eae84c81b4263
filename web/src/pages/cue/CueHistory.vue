<script setup lang="ts">
/** The cue's earlier states: what changed when, played on the stage, restored by one press. */
import { ElDrawer } from 'element-plus'
import { ref, shallowRef, watch } from 'vue'
import { api, got, type Cue, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'
import { dayOf, timeOf } from '@/logic/review'
import { useDraft, useTrying } from './draft'

type Before = Schemas['CueBefore']
const draft = useDraft()
const trying = useTrying()
const book = useBook()
const open = ref(false)
const states = shallowRef<Before[]>([])

async function load(): Promise<void> {
  const id = draft.cue.value?.id
  if (!open.value || !id) return
  await draft.flush()
  const params = { path: { cue_id: id } }
  await attempt(async () => (states.value = await got(api.GET('/api/cues/{cue_id}/history', { params }))))
}
watch([open, () => book.version], () => void load())

async function take(state: Before): Promise<void> {
  await attempt(async () => {
    await draft.flush()
    await book.put('cues', { ...state.cue } as Cue)
    book.outside += 1
    say(`Restored the version of ${timeOf(state.at)}. Ctrl+Z undoes it.`, 'fine')
    await load()
  })
}
</script>

<template>
  <button class="btn" data-test="cue-history" @click="open = true">History</button>
  <ElDrawer v-model="open" title="History of this cue" size="420px" :modal="false" append-to-body>
    <ol v-if="states.length" class="states">
      <li v-for="state in states" :key="state.version" :class="{ undone: state.undone }">
        <div class="row">
          <strong class="grow">{{ dayOf(state.at, Date.now()) }}, {{ timeOf(state.at) }}</strong>
          <span v-if="state.now" class="soft">current</span>
          <template v-else>
            <button class="btn tiny" @click="trying.look(state.cue)">Play</button>
            <button class="btn tiny" :data-test="`restore-${state.version}`" @click="take(state)">
              Restore
            </button>
          </template>
        </div>
        <p v-for="(line, i) in state.changes.slice(0, 6)" :key="i" class="soft small">{{ line }}</p>
        <p v-if="state.changes.length > 6" class="soft small">and {{ state.changes.length - 6 }} more</p>
      </li>
    </ol>
    <p v-else class="soft">Nothing has changed yet.</p>
  </ElDrawer>
</template>

<style scoped>
.states {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 10px;
}

li {
  padding-bottom: 8px;
  border-bottom: 1px solid var(--line);
}

p {
  margin: 2px 0 0;
  overflow-wrap: anywhere;
}

.undone strong {
  text-decoration: line-through;
  color: var(--soft);
}
</style>
