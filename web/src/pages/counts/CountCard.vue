<script setup lang="ts">
/** One count: its name, goal and value, what raises it, and the cues that it calls. */
import { ElOption, ElPopconfirm } from 'element-plus'
import { computed } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { FEEDS, type Feed } from '@/logic/counts'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'

type Count = Schemas['Count']
const props = defineProps<{ count: Count; now: number }>()
const emit = defineEmits<{ set: [] }>()
const book = useBook()
const cues = computed(() =>
  (book.book?.cues ?? []).filter((cue) =>
    cue.calls.some((call) => call.kind === 'count' && call.count === props.count.id),
  ),
)
const rewards = computed(() => [
  { value: '', name: 'of any reward' },
  ...(book.book?.rewards ?? []).map((one) => ({ value: one.id, name: `of ${one.title}` })),
])
const share = computed(() => Math.min(1, props.now / (props.count.goal ?? Math.max(1, props.now))))

function change(fields: Partial<Count>): void {
  void attempt(() => book.put('counts', { ...props.count, ...fields }))
}

function rename(name: string): void {
  if (name.trim() && name.trim() !== props.count.name) change({ name: name.trim() })
}

function feed(index: number, next: Feed | null): void {
  change({ feeds: props.count.feeds.flatMap((one, i) => (i === index ? (next ?? []) : one)) })
}

async function setTo(value: number): Promise<void> {
  const params = { path: { count_id: props.count.id } }
  await attempt(() => got(api.POST('/api/counts/{count_id}', { params, body: { value } })))
  emit('set')
}
</script>

<template>
  <section class="card count" :data-test="`count-${count.id}`">
    <div class="row wrap">
      <input
        class="well name"
        maxlength="200"
        aria-label="Name of the count"
        :value="count.name"
        @change="rename(($event.target as HTMLInputElement).value)"
      />
      <progress class="grow" :value="share" max="1" :aria-label="`${count.name}: ${now}`"></progress>
      <span class="big" data-test="count-now">{{ now }}{{ count.goal ? ` of ${count.goal}` : '' }}</span>
      <ElPopconfirm
        :persistent="false"
        title="Delete this count?"
        confirm-button-text="Delete"
        cancel-button-text="Keep"
        width="220"
        @confirm="attempt(() => book.remove('counts', count.id))"
      >
        <template #reference><button class="btn tiny" data-test="delete">Delete</button></template>
      </ElPopconfirm>
    </div>
    <div class="fields">
      <label class="field"
        >Value<NumberField
          :model-value="now"
          :least="0"
          :most="1_000_000_000"
          whole
          data-test="count-set"
          @update:model-value="setTo"
      /></label>
      <label class="field"
        >Goal<NumberField
          :model-value="count.goal"
          :least="1"
          :most="1_000_000_000"
          hint="none"
          whole
          optional
          data-test="count-goal"
          @update:model-value="change({ goal: $event })"
          @clear="change({ goal: null })"
      /></label>
      <label class="field"
        >Resets<PickField
          :model-value="count.per"
          data-test="count-per"
          @update:model-value="change({ per: $event })"
        >
          <ElOption value="stream" label="with every stream" />
          <ElOption value="good" label="never" /></PickField
      ></label>
    </div>
    <div class="feeds">
      <span class="soft">Goes up by</span>
      <span v-for="(one, i) in count.feeds" :key="i" class="chip">
        {{ FEEDS[one.by] }}
        <PickField
          v-if="one.by === 'redemptions' || one.by === 'points'"
          class="of"
          :model-value="one.reward ?? ''"
          :choices="rewards"
          aria-label="Reward"
          @update:model-value="feed(i, { ...one, reward: $event || null })"
        />
        <button class="btn bare tiny" aria-label="Remove" @click="feed(i, null)">✕</button>
      </span>
      <PickField
        class="add"
        :model-value="undefined"
        :choices="Object.entries(FEEDS).map(([value, name]) => ({ value, name }))"
        placeholder="Add…"
        aria-label="Add a source"
        data-test="count-feed"
        @update:model-value="change({ feeds: [...count.feeds, { by: $event as Feed['by'], reward: null }] })"
      />
    </div>
    <p class="soft small calls">
      <template v-if="cues.length">
        Calls
        <template v-for="(cue, i) in cues" :key="cue.id"
          >{{ i ? ', ' : '' }}<RouterLink :to="`/cues/${cue.id}`">{{ cue.name }}</RouterLink></template
        >
      </template>
      <template v-else>Calls no cue yet. In a cue, choose <em>When… › Count</em>.</template>
    </p>
  </section>
</template>

<style scoped>
.count {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 10px;
}

.wrap {
  flex-wrap: wrap;
}

.name {
  font: 600 18px var(--display);
  width: 260px;
}

.big {
  font: 650 22px var(--display);
  white-space: nowrap;
}

progress {
  height: 14px;
  min-width: 80px;
  accent-color: var(--marmalade);
}

.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(160px, 1fr));
  gap: 12px;
}

.feeds {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}

.chip {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 2px 4px 2px 10px;
  border: 1px solid var(--line);
  border-radius: 12px;
}

.of {
  width: 190px;
}

.add {
  width: 130px;
}

.calls {
  margin: 0;
}
</style>
