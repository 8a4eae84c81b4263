<script setup lang="ts">
/** One call of a cue, with its bounds. */
import { ElOption } from 'element-plus'
import type { Call } from '@/api/client'
import { useBook } from '@/composables/useBook'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'
import { useDraft } from '../draft'

const props = defineProps<{ call: Call }>()
const emit = defineEmits<{ remove: []; change: [call: Call] }>()
const book = useBook()
const { sayCall } = useDraft()

interface Bound {
  key: string
  hint: string
  what: string
  least: number
  whole: boolean
}
const MONTHS_AND_GIFTS: Bound[] = [
  { key: 'months_from', hint: 'months', what: 'Minimum months', least: 1, whole: true },
  { key: 'months_to', hint: 'to', what: 'Maximum months', least: 1, whole: true },
  { key: 'gifts_from', hint: 'gifts', what: 'Minimum gifts', least: 1, whole: true },
  { key: 'gifts_to', hint: 'to', what: 'Maximum gifts', least: 1, whole: true },
]
const AMOUNT: Bound[] = [
  { key: 'from', hint: 'from', what: 'From', least: 0, whole: false },
  { key: 'to', hint: 'to', what: 'To', least: 0, whole: false },
]
const BOUNDS: Partial<Record<Call['kind'], Bound[]>> = {
  tip: AMOUNT,
  raid: AMOUNT,
  membership: MONTHS_AND_GIFTS,
}

function value(key: string): number | null {
  return ((props.call as Record<string, unknown>)[key] as number | null | undefined) ?? null
}

function setTime(time: string): void {
  if (time) emit('change', { ...props.call, at_time: time } as Call)
}

function set(key: string, to: number | null): void {
  emit('change', { ...props.call, [key]: to } as Call)
}
</script>

<template>
  <li class="chip" :data-test="`call-${call.kind}`">
    <span class="row">
      <span class="grow">{{ sayCall(call) }}</span>
      <button class="btn bare tiny" aria-label="Remove" @click="emit('remove')">✕</button>
    </span>
    <span v-if="BOUNDS[call.kind] || call.kind === 'clock'" class="bounds">
      <PickField
        v-if="call.kind === 'membership'"
        :model-value="call.tier ?? 0"
        class="tier"
        aria-label="Minimum tier"
        @update:model-value="set('tier', $event || null)"
      >
        <ElOption :value="0" label="any tier" />
        <ElOption v-for="tier in [1, 2, 3]" :key="tier" :value="tier" :label="`from tier ${tier}`" />
      </PickField>
      <NumberField
        v-for="bound in BOUNDS[call.kind]"
        :key="bound.key"
        class="edge"
        :least="bound.least"
        :whole="bound.whole"
        :hint="bound.hint"
        :aria-label="bound.what"
        :data-test="`bound-${bound.key}`"
        :model-value="value(bound.key)"
        optional
        narrow
        @update:model-value="set(bound.key, $event)"
        @clear="set(bound.key, null)"
      />
      <input
        v-if="call.kind === 'clock' && call.at_time"
        type="time"
        class="well"
        aria-label="Time of day"
        :value="call.at_time"
        @change="setTime(($event.target as HTMLInputElement).value)"
      />
      <NumberField
        v-else-if="call.kind === 'clock'"
        class="edge"
        :least="call.every_min ? 1 : 0"
        :most="call.every_min ? 1440 : 10000"
        :aria-label="call.every_min ? 'Minutes between' : 'Minute of the stream'"
        :model-value="call.every_min ?? call.at_min"
        narrow
        @update:model-value="set(call.every_min ? 'every_min' : 'at_min', $event)"
      />
    </span>
    <span v-if="call.kind === 'chat' && book.book?.points.on" class="bounds">
      <NumberField
        class="edge"
        :least="1"
        :most="10_000_000"
        whole
        optional
        narrow
        hint="free"
        :aria-label="`Price in ${book.book.points.name}`"
        :model-value="call.cost"
        @update:model-value="set('cost', $event)"
        @clear="set('cost', null)"
      />
      <span class="soft small">{{ book.book.points.name }}</span>
    </span>
  </li>
</template>

<style scoped>
.chip {
  display: grid;
  gap: 4px;
  padding: 2px 4px 2px 10px;
  background: var(--ground);
  border: 1px solid var(--line);
  border-radius: 12px;
}

.bounds {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  padding-bottom: 4px;
}

.edge {
  width: 78px;
}

.tier {
  width: 120px;
}
</style>
