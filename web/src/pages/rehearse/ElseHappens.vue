<script setup lang="ts">
/** Events in an audience's night: raids, disconnected gear, something changed by hand. */
import { ElOption, ElPopover } from 'element-plus'
import { computed, ref } from 'vue'
import { useBook } from '@/composables/useBook'
import { say } from '@/composables/useSay'
import { elseWithout, type Audience } from '@/logic/nights'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'

const props = defineProps<{ audience: Audience }>()
const emit = defineEmits<{ change: [fields: Partial<Audience>] }>()
const book = useBook()

const what = ref<'raid' | 'outage' | 'hand'>('raid')
const minute = ref(30)
const viewers = ref(50)
const gear = ref('')
/** The first one until another is chosen. */
const away = computed({
  get: () => gear.value || book.book?.gear[0]?.id || '',
  set: (id: string) => (gear.value = id),
})
const minutes = ref(5)
const path = ref('broadcast/scene')
const value = ref('')
const added = ref(false)
function add(): void {
  const at_min = Math.min(minute.value, props.audience.length_min)
  if (what.value === 'raid')
    emit('change', { raids: [...props.audience.raids, { at_min, viewers: viewers.value }] })
  else if (what.value === 'outage' && away.value)
    emit('change', {
      outages: [...props.audience.outages, { at_min, for_min: minutes.value, gear: away.value }],
    })
  else if (what.value === 'hand' && path.value && value.value)
    emit('change', { hands: [...props.audience.hands, { at_min, path: path.value, value: value.value }] })
  else {
    say(what.value === 'outage' ? 'No gear yet.' : 'Choose a property and its value.', 'wrong')
    return
  }
  added.value = false
}
const others = computed(() => [
  ...props.audience.raids.map((one, i) => ({
    key: `raids/${i}`,
    at: one.at_min,
    words: `a raid of ${one.viewers}`,
    without: (): Partial<Audience> => elseWithout(props.audience, 'raids', i),
  })),
  ...props.audience.outages.map((one, i) => ({
    key: `outages/${i}`,
    at: one.at_min,
    words: `${book.gearName(one.gear)} is disconnected for ${one.for_min} min`,
    without: (): Partial<Audience> => elseWithout(props.audience, 'outages', i),
  })),
  ...props.audience.hands.map((one, i) => ({
    key: `hands/${i}`,
    at: one.at_min,
    words: `by hand: ${one.path} is ${one.value}`,
    without: (): Partial<Audience> => elseWithout(props.audience, 'hands', i),
  })),
])
</script>

<template>
  <div class="row else">
    <h2>Events</h2>
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
      :persistent="false"
      v-model:visible="added"
      trigger="click"
      :width="300"
      role="dialog"
      aria-label="Add an event"
    >
      <template #reference><button class="btn tiny" data-test="add-else">Add event</button></template>
      <div class="adding">
        <PickField v-model="what" aria-label="Event" data-test="else-what">
          <ElOption value="raid" label="a raid" /><ElOption value="outage" label="gear disconnects" />
          <ElOption value="hand" label="a change by hand" />
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
            <PickField v-model="away" aria-label="gear" data-test="else-gear"
              ><ElOption
                v-for="one in book.book?.gear ?? []"
                :key="one.id"
                :value="one.id"
                :label="one.name || one.id"
            /></PickField>
          </label>
          <label class="small"
            >minutes away <NumberField v-model="minutes" :least="0.5" :most="1440" aria-label="minutes away"
          /></label>
        </template>
        <template v-else>
          <label class="small">property <input v-model="path" class="well" aria-label="property" /></label>
          <label class="small">becomes <input v-model="value" class="well" aria-label="becomes" /></label>
        </template>
        <button class="btn main add" @click="add">Add</button>
      </div>
    </ElPopover>
  </div>
</template>

<style scoped>
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

.else {
  flex-wrap: wrap;
}

.add {
  justify-content: center;
}

.adding {
  display: grid;
  gap: 8px;
}
</style>
