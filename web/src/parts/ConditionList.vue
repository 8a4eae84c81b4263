<script setup lang="ts">
/** Conditions that all must hold: added, set and removed one by one. */
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import { useGear } from '@/composables/useGear'
import { ABOUT, fresh, type About, type Condition } from '@/logic/conditions'
import ConditionRow from './ConditionRow.vue'
import PickField from './PickField.vue'

const props = defineProps<{
  modelValue: Condition[]
  /** Outcomes of the cue's chances, and its beats that draw. */
  outcomes?: { value: string; name: string }[]
  draws?: { value: string; name: string }[]
}>()
const emit = defineEmits<{ 'update:modelValue': [conditions: Condition[]] }>()

const book = useBook()
const gear = useGear()

/** The first choice of each kind; a kind without any choice isn't offered. */
const first = computed<Partial<Record<About, Partial<Condition> | null>>>(() => {
  const [outcome, draw] = [props.outcomes?.[0]?.value, props.draws?.[0]?.value]
  const there = book.book?.gear[0]?.id
  return {
    rolled: outcome ? { rolled: outcome } : null,
    drawn: draw ? { drawn: draw } : null,
    gear: there ? { gear: there } : null,
    scene: { scene: Object.keys(gear.broadcast?.scenes ?? {})[0] ?? ' ' },
  }
})
const offered = computed(() =>
  (Object.entries(ABOUT) as [About, string][])
    .filter(([about]) => first.value[about] !== null)
    .map(([value, name]) => ({ value, name: `${name}…` })),
)

function add(about: About): void {
  emit('update:modelValue', [...props.modelValue, fresh(about, first.value[about] ?? {})])
}

function set(index: number, condition: Condition | null): void {
  const next = props.modelValue.flatMap((one, i) => (i === index ? (condition ?? []) : one))
  emit('update:modelValue', next)
}
</script>

<template>
  <div class="conditions" data-test="conditions">
    <ConditionRow
      v-for="(one, i) in modelValue"
      :key="i"
      :condition="one"
      :outcomes="outcomes ?? []"
      :draws="draws ?? []"
      @change="set(i, $event)"
      @remove="set(i, null)"
    />
    <PickField
      :model-value="undefined"
      :choices="offered"
      :placeholder="modelValue.length ? 'And only if…' : 'Add a condition…'"
      aria-label="Add a condition"
      data-test="add-condition"
      @update:model-value="add($event as About)"
    />
  </div>
</template>

<style scoped>
.conditions {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
}
</style>
