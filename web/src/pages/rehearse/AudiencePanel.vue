<script setup lang="ts">
/** An audience: who they are, when they come, what they like, how they behave, and what else happens. Saved as it is drawn. */
import { ElOption, ElPopover, ElSegmented } from 'element-plus'
import { computed, ref } from 'vue'
import { useBook } from '@/composables/useBook'
import type { Audience } from '@/logic/nights'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'
import AudienceCurve from './AudienceCurve.vue'
import LikesBars from './LikesBars.vue'
import SplitBar from './SplitBar.vue'

const props = defineProps<{ audience: Audience }>()
const emit = defineEmits<{ change: [fields: Partial<Audience>] }>()
const book = useBook()

const LIKES = [
  { value: 'by_price', label: 'the cheaper the more' },
  { value: 'evenly', label: 'all alike' },
  { value: 'past', label: 'as on past nights' },
  { value: 'shares', label: 'as drawn here' },
]
const who = computed(() => {
  const { followers, members } = props.audience
  const strangers = Math.max(0, 1 - Math.max(followers, members))
  return [
    { id: 'members', name: 'members', share: members },
    { id: 'followers', name: 'followers', share: Math.max(0, followers - members) },
    { id: 'strangers', name: 'strangers', share: strangers },
  ]
})
function putWho([members = 0, followers = 0]: number[]): void {
  emit('change', {
    members: Math.min(1, members),
    followers: Math.min(1, Number((members + followers).toFixed(3))),
  })
}
const manners = computed(() => [
  { id: 'patient', name: 'patient', share: props.audience.manners.patient },
  { id: 'keen', name: 'keen', share: props.audience.manners.keen, hint: 'They call three times as often.' },
  {
    id: 'spammer',
    name: 'spammers',
    share: props.audience.manners.spammer,
    hint: 'The same 3 to 8 times at once.',
  },
  {
    id: 'nonsense',
    name: 'nonsense',
    share: props.audience.manners.nonsense,
    hint: 'They write anything where a text is asked for.',
  },
])
function putManners([patient = 0, keen = 0, spammer = 0, nonsense = 0]: number[]): void {
  emit('change', { manners: { patient, keen, spammer, nonsense } })
}

// What else happens

const what = ref<'raid' | 'outage' | 'hand'>('raid')
const minute = ref(30)
const viewers = ref(50)
const gear = ref('')
const minutes = ref(5)
const path = ref('broadcast/scene')
const value = ref('')
const added = ref(false)
function add(): void {
  const at_min = Math.min(minute.value, props.audience.length_min)
  if (what.value === 'raid')
    emit('change', { raids: [...props.audience.raids, { at_min, viewers: viewers.value }] })
  else if (what.value === 'outage' && gear.value)
    emit('change', {
      outages: [...props.audience.outages, { at_min, for_min: minutes.value, gear: gear.value }],
    })
  else if (what.value === 'hand' && path.value && value.value)
    emit('change', { hands: [...props.audience.hands, { at_min, path: path.value, value: value.value }] })
  else return
  added.value = false
}
const others = computed(() => [
  ...props.audience.raids.map((one, i) => ({
    key: `raids/${i}`,
    at: one.at_min,
    words: `a raid of ${one.viewers}`,
    without: (): Partial<Audience> => ({ raids: props.audience.raids.filter((_, n) => n !== i) }),
  })),
  ...props.audience.outages.map((one, i) => ({
    key: `outages/${i}`,
    at: one.at_min,
    words: `${one.gear} is away for ${one.for_min} min`,
    without: (): Partial<Audience> => ({ outages: props.audience.outages.filter((_, n) => n !== i) }),
  })),
  ...props.audience.hands.map((one, i) => ({
    key: `hands/${i}`,
    at: one.at_min,
    words: `by hand: ${one.path} is ${one.value}`,
    without: (): Partial<Audience> => ({ hands: props.audience.hands.filter((_, n) => n !== i) }),
  })),
])
</script>

<template>
  <section class="card audience" aria-label="The audience" data-test="audience">
    <AudienceCurve :audience="audience" @change="emit('change', $event)" />
    <div class="columns">
      <div class="column">
        <h2>Who they are</h2>
        <SplitBar :parts="who" label="Who they are" @change="putWho" />
        <h2>How they behave</h2>
        <SplitBar :parts="manners" label="How they behave" @change="putManners" />
      </div>
      <div class="column numbers">
        <label class="small"
          >viewers
          <NumberField
            :model-value="audience.viewers"
            :least="1"
            :most="100000"
            :step="10"
            whole
            aria-label="viewers"
            @update:model-value="emit('change', { viewers: $event })"
          />
        </label>
        <label class="small"
          >calls in the night
          <NumberField
            :model-value="audience.calls"
            :least="0"
            :most="100000"
            :step="20"
            whole
            aria-label="calls in the night"
            @update:model-value="emit('change', { calls: $event })"
          />
        </label>
        <label class="small"
          >minutes
          <NumberField
            :model-value="audience.length_min"
            :least="1"
            :most="1440"
            :step="10"
            aria-label="minutes"
            @update:model-value="emit('change', { length_min: $event })"
          />
        </label>
        <label class="small"
          >which such night
          <NumberField
            :model-value="audience.seed"
            :least="0"
            :most="2147483647"
            whole
            aria-label="which such night"
            title="The same number is the same night"
            @update:model-value="emit('change', { seed: $event })"
          />
        </label>
      </div>
    </div>
    <div class="row likes-row">
      <h2>What they like</h2>
      <ElSegmented
        :model-value="audience.likes"
        :options="LIKES"
        aria-label="What they like"
        @update:model-value="emit('change', { likes: $event as Audience['likes'] })"
      />
    </div>
    <LikesBars
      v-if="audience.likes === 'shares' && book.book"
      :book="book.book"
      :shares="audience.shares"
      @change="emit('change', { shares: $event })"
    />
    <div class="row else">
      <h2>What else happens</h2>
      <span v-for="one in others" :key="one.key" class="chip small">
        {{ Math.round(one.at) }} min: {{ one.words }}
        <button
          type="button"
          class="btn bare tiny"
          :aria-label="`Without ${one.words}`"
          @click="emit('change', one.without())"
        >
          ×
        </button>
      </span>
      <ElPopover
        v-model:visible="added"
        trigger="click"
        :width="300"
        role="dialog"
        aria-label="Something else happens"
      >
        <template #reference><button class="btn tiny" data-test="add-else">Add</button></template>
        <div class="adding">
          <PickField v-model="what" aria-label="What happens">
            <ElOption value="raid" label="a raid" /><ElOption value="outage" label="gear is away" />
            <ElOption value="hand" label="something is changed by hand" />
          </PickField>
          <label class="small"
            >at minute <NumberField v-model="minute" :least="0" :most="1440" aria-label="at minute"
          /></label>
          <label v-if="what === 'raid'" class="small"
            >viewers
            <NumberField v-model="viewers" :least="1" :most="100000" whole aria-label="viewers that come"
          /></label>
          <template v-else-if="what === 'outage'">
            <label class="small"
              >gear
              <PickField v-model="gear" aria-label="gear"
                ><ElOption
                  v-for="one in book.book?.gear ?? []"
                  :key="one.id"
                  :value="one.id"
                  :label="one.name || one.id"
              /></PickField>
            </label>
            <label class="small"
              >minutes away
              <NumberField v-model="minutes" :least="0.5" :most="1440" aria-label="minutes away"
            /></label>
          </template>
          <template v-else>
            <label class="small">property <input v-model="path" class="well" aria-label="property" /></label>
            <label class="small">becomes <input v-model="value" class="well" aria-label="becomes" /></label>
          </template>
          <button class="btn main" @click="add">Add it</button>
        </div>
      </ElPopover>
    </div>
  </section>
</template>

<style scoped>
.audience {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
}

.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  gap: 24px;
}

.column {
  display: grid;
  gap: 6px;
  align-content: start;
}

.column h2 + .split {
  margin-bottom: 6px;
}

.numbers {
  grid-template-columns: 1fr 1fr;
  gap: 8px 12px;
}

label {
  display: grid;
  gap: 2px;
  color: var(--soft);
}

.chip {
  display: inline-flex;
  align-items: center;
  padding: 0 0 0 10px;
  border-radius: 6px;
  background: var(--raised);
}

.else,
.likes-row {
  flex-wrap: wrap;
}

.likes-row :deep(.el-segmented) {
  max-width: 100%;
  overflow-x: auto;
}

.adding {
  display: grid;
  gap: 8px;
}

@media (max-width: 800px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
