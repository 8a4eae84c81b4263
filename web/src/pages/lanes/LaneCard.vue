<script setup lang="ts">
/** One lane: its settings, its current runs, and its cues. */
import { ElDialog, ElOption } from 'element-plus'
import { computed, ref } from 'vue'
import { api, got, type Cue } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { attempt } from '@/composables/useSay'
import { saidOfLane, type Lane } from '@/logic/lanes'
import DurationField from '@/parts/DurationField.vue'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'

const props = defineProps<{ lane: Lane; cues: Cue[]; others: Lane[]; takes: boolean }>()
const emit = defineEmits<{
  drag: [cue: string]
  'drop-here': []
  move: [cue: string, to: string]
  end: []
}>()
const book = useBook()
const live = useLive()
const over = ref(false)
const asking = ref(false)
const to = ref('')
const row = computed(() => live.state?.lanes.find((one) => one.id === props.lane.id))
const running = computed(() => row.value?.running ?? [])

function set(fields: Partial<Lane>): void {
  void attempt(() => book.put('lanes', { ...props.lane, ...fields }))
}

function rename(name: string): void {
  if (name.trim() && name.trim() !== props.lane.name) set({ name: name.trim() })
}

function askToDelete(): void {
  to.value = props.others[0]?.id ?? ''
  if (props.cues.length) asking.value = true
  else void remove()
}

async function remove(): Promise<void> {
  asking.value = false
  const params = { path: { lane_id: props.lane.id } }
  const body = { to: props.cues.length ? to.value : null }
  await attempt(() => book.edit(() => got(api.POST('/api/lanes/{lane_id}/delete', { params, body }))))
}
</script>

<template>
  <section
    class="card lane"
    :class="{ over: over && takes }"
    :data-test="`lane-${lane.id}`"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="((over = false), emit('drop-here'))"
  >
    <div class="row wrap">
      <input
        class="well name"
        maxlength="200"
        aria-label="Name of the lane"
        data-test="name"
        :value="lane.name"
        @change="rename(($event.target as HTMLInputElement).value)"
      />
      <span class="soft" data-test="now">{{ row ? saidOfLane(row) : '' }}</span>
      <span v-for="run in running" :key="run.run" class="up small">{{ run.name }}</span>
      <span class="grow"></span>
      <button class="btn tiny" :disabled="!others.length" data-test="delete" @click="askToDelete">
        Delete
      </button>
    </div>
    <div class="fields">
      <label class="field"
        >At once<NumberField
          :model-value="lane.width"
          :least="1"
          :most="100"
          whole
          data-test="width"
          @update:model-value="set({ width: $event })"
      /></label>
      <label class="field"
        >Longest line<NumberField
          :model-value="lane.line"
          :least="0"
          :most="10000"
          whole
          data-test="line"
          @update:model-value="set({ line: $event })"
      /></label>
      <label class="field"
        >Longest wait<DurationField
          :model-value="lane.wait_s"
          data-test="wait"
          @update:model-value="set({ wait_s: $event })"
      /></label>
      <label class="field"
        >Gap between runs<DurationField
          :model-value="lane.gap_s"
          data-test="gap"
          @update:model-value="set({ gap_s: $event })"
      /></label>
      <label class="field"
        >Order<PickField
          :model-value="lane.order"
          data-test="order"
          @update:model-value="set({ order: $event as Lane['order'] })"
        >
          <ElOption value="arrival" label="by arrival" />
          <ElOption value="fair" label="fair, by turns" /> </PickField
      ></label>
    </div>
    <ul class="cues">
      <li
        v-for="cue in cues"
        :key="cue.id"
        class="cue"
        draggable="true"
        :data-test="`in-${cue.id}`"
        @dragstart="emit('drag', cue.id)"
        @dragend="emit('end')"
      >
        <RouterLink :to="`/cues/${cue.id}`">{{ cue.name }}</RouterLink>
        <select
          v-if="others.length"
          class="move"
          :aria-label="`Move ${cue.name} to another lane`"
          @change="emit('move', cue.id, ($event.target as HTMLSelectElement).value)"
        >
          <option value="">⋯</option>
          <option v-for="other in others" :key="other.id" :value="other.id">to {{ other.name }}</option>
        </select>
      </li>
      <li v-if="!cues.length" class="soft small">No cues in this lane.</li>
    </ul>
    <ElDialog v-model="asking" append-to="#over" :title="`Delete ${lane.name}?`" width="420">
      <label class="field">
        Move its {{ cues.length }} {{ cues.length === 1 ? 'cue' : 'cues' }} to
        <PickField v-model="to" data-test="delete-to">
          <ElOption v-for="other in others" :key="other.id" :value="other.id" :label="other.name" />
        </PickField>
      </label>
      <template #footer>
        <button class="btn" @click="asking = false">Cancel</button>
        <button class="btn main" data-test="delete-sure" @click="remove">Delete lane</button>
      </template>
    </ElDialog>
  </section>
</template>

<style scoped>
.lane {
  display: grid;
  gap: 10px;
}

.lane.over {
  border-color: var(--marmalade);
}

.wrap {
  flex-wrap: wrap;
}

.name {
  width: 220px;
  font: 640 17px var(--display);
}

.up {
  padding: 1px 8px;
  border-radius: 10px;
  background: var(--marmalade);
  color: var(--ground);
}

.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 10px;
}

.cues {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 0;
  padding: 0;
  list-style: none;
}

.cue {
  display: flex;
  align-items: center;
  gap: 4px;
  padding: 2px 4px 2px 10px;
  background: var(--ground);
  border: 1px solid var(--line);
  border-radius: 12px;
  cursor: grab;
}

.cue a {
  color: inherit;
  text-decoration: none;
}

.move {
  width: 24px;
  padding: 0 4px;
  color: var(--soft);
  appearance: none;
  background: none;
  border: 0;
  cursor: pointer;
}

.move option {
  color: initial;
}
</style>
