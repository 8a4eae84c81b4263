<script setup lang="ts">
/** An audience: who they are, when they come, what they like, how they behave, and what else happens. Saved while it is drawn. */
import { ElSegmented } from 'element-plus'
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import { curvesFor, type Audience } from '@/logic/nights'
import NumberField from '@/parts/NumberField.vue'
import AudienceCurve from './AudienceCurve.vue'
import ElseHappens from './ElseHappens.vue'
import LikesBars from './LikesBars.vue'
import SplitBar from './SplitBar.vue'

const props = defineProps<{ audience: Audience }>()
const emit = defineEmits<{ change: [fields: Partial<Audience>] }>()
const book = useBook()

const LIKES = [
  { value: 'by_price', label: 'cheaper is more popular' },
  { value: 'evenly', label: 'all equally' },
  { value: 'past', label: 'as on past nights' },
  { value: 'shares', label: 'as drawn here' },
]
const curves = computed(() => curvesFor(props.audience.length_min))
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
  { id: 'keen', name: 'keen', share: props.audience.manners.keen, hint: 'Call three times as often.' },
  {
    id: 'spammer',
    name: 'spammers',
    share: props.audience.manners.spammer,
    hint: 'Repeat the same call 3 to 8 times.',
  },
  {
    id: 'nonsense',
    name: 'nonsense',
    share: props.audience.manners.nonsense,
    hint: 'Write nonsense where text is required.',
  },
])
function putManners([patient = 0, keen = 0, spammer = 0, nonsense = 0]: number[]): void {
  emit('change', { manners: { patient, keen, spammer, nonsense } })
}
</script>

<template>
  <section class="card audience" aria-label="The audience" data-test="audience">
    <div class="row when">
      <h2>Activity</h2>
      <button
        v-for="one in curves"
        :key="one.name"
        class="btn tiny"
        :title="one.hint"
        @click="emit('change', { curve: one.curve })"
      >
        {{ one.name }}
      </button>
    </div>
    <AudienceCurve :audience="audience" @change="emit('change', $event)" />
    <div class="columns">
      <div class="column">
        <h2>Viewers</h2>
        <SplitBar :parts="who" label="Viewers" @change="putWho" />
        <h2>Behaviour</h2>
        <SplitBar :parts="manners" label="Behaviour" @change="putManners" />
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
          >calls per night
          <NumberField
            :model-value="audience.calls"
            :least="0"
            :most="100000"
            :step="20"
            whole
            aria-label="calls per night"
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
          >seed
          <NumberField
            :model-value="audience.seed"
            :least="0"
            :most="2147483647"
            whole
            aria-label="seed"
            title="The same number gives the same night"
            @update:model-value="emit('change', { seed: $event })"
          />
        </label>
      </div>
    </div>
    <div class="row likes-row">
      <h2>Preferences</h2>
      <ElSegmented
        :model-value="audience.likes"
        :options="LIKES"
        aria-label="Preferences"
        @update:model-value="emit('change', { likes: $event as Audience['likes'] })"
      />
    </div>
    <LikesBars
      v-if="audience.likes === 'shares' && book.book"
      :book="book.book"
      :shares="audience.shares"
      @change="emit('change', { shares: $event })"
    />
    <ElseHappens :audience="audience" @change="emit('change', $event)" />
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

.likes-row {
  flex-wrap: wrap;
}

.likes-row :deep(.el-segmented) {
  max-width: 100%;
  overflow-x: auto;
}

@media (max-width: 800px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
