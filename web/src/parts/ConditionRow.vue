<script setup lang="ts">
/** One condition: its subject, and what must hold. */
import { ElOption } from 'element-plus'
import { computed } from 'vue'
import { ROLE_NAMES } from '@/api/kinds'
import { useBook } from '@/composables/useBook'
import { useGear } from '@/composables/useGear'
import { ABOUT, aboutOf, countsOf, type Condition } from '@/logic/conditions'
import NumberField from './NumberField.vue'
import PickField from './PickField.vue'

const props = defineProps<{
  condition: Condition
  outcomes: { value: string; name: string }[]
  draws: { value: string; name: string }[]
}>()
const emit = defineEmits<{ change: [condition: Condition]; remove: [] }>()
const book = useBook()
const gear = useGear()
const about = computed(() => aboutOf(props.condition))

function set(fields: Partial<Condition>): void {
  emit('change', { ...props.condition, ...fields })
}

const roles = Object.entries(ROLE_NAMES)
  .filter(([role]) => role !== 'everyone')
  .map(([value, name]) => ({ value, name: `one of the ${name}` }))
const scenes = computed(() => Object.keys(gear.broadcast?.scenes ?? {}))
const things = computed(() =>
  (book.book?.gear ?? []).map((one) => ({ value: one.id, name: one.name || one.id })),
)
const counts = computed(() => Object.entries(countsOf(book.book)).map(([value, name]) => ({ value, name })))
const WRITTEN = ['text_is', 'text_contains', 'text_has', 'category'] as const
const written = computed(() => WRITTEN.find((key) => key === about.value))
/** Scenes are chosen from a list if they are known. */
const typed = computed(
  () => written.value ?? (about.value === 'scene' && !scenes.value.length ? 'scene' : ''),
)

function write(text: string): void {
  if (typed.value && text.trim()) set({ [typed.value]: text.trim() })
}
</script>

<template>
  <div class="condition" :data-test="`condition-${about}`">
    <button
      type="button"
      class="btn tiny not"
      :class="{ main: condition.not }"
      :aria-pressed="condition.not"
      title="Reverse the condition"
      @click="set({ not: !condition.not })"
    >
      {{ condition.not ? 'not' : 'if' }}
    </button>
    <span class="about">{{ ABOUT[about] }}</span>
    <button type="button" class="btn bare tiny" aria-label="Remove" @click="emit('remove')">✕</button>
    <div class="value">
      <PickField
        v-if="about === 'role'"
        :model-value="condition.role ?? undefined"
        :choices="roles"
        aria-label="Role"
        @update:model-value="set({ role: $event as Condition['role'] })"
      />
      <input
        v-else-if="typed"
        class="well"
        :value="String(condition[typed as 'text_is'] ?? '').trim()"
        :aria-label="ABOUT[about]"
        maxlength="200"
        data-test="condition-words"
        @change="write(($event.target as HTMLInputElement).value)"
      />
      <template v-else-if="about === 'number'">
        <span>from</span
        ><NumberField
          :model-value="condition.text_from"
          aria-label="From"
          whole
          :optional="condition.text_to !== null"
          narrow
          @update:model-value="set({ text_from: $event })"
          @clear="set({ text_from: null })"
        /><span>to</span
        ><NumberField
          :model-value="condition.text_to"
          aria-label="To"
          hint="any"
          whole
          :optional="condition.text_from !== null"
          narrow
          @update:model-value="set({ text_to: $event })"
          @clear="set({ text_to: null })"
        />
      </template>
      <template v-else-if="about === 'count'">
        <PickField
          :model-value="condition.count ?? undefined"
          :choices="counts"
          aria-label="Count"
          @update:model-value="set({ count: String($event) })"
        />
        <PickField
          class="sign"
          :model-value="condition.is"
          aria-label="Comparison"
          @update:model-value="set({ is: $event })"
        >
          <ElOption value="=" label="is" />
          <ElOption value=">=" label="at least" />
          <ElOption value="<=" label="at most" />
        </PickField>
        <NumberField
          :model-value="condition.number"
          aria-label="Number"
          whole
          narrow
          @update:model-value="set({ number: $event })"
        />
      </template>
      <PickField
        v-else-if="about === 'live'"
        :model-value="condition.live ? 'live' : 'off'"
        aria-label="The stream is"
        @update:model-value="set({ live: $event === 'live' })"
      >
        <ElOption value="live" label="live" />
        <ElOption value="off" label="off air" />
      </PickField>
      <PickField
        v-else-if="about === 'scene'"
        :model-value="condition.scene?.trim() || undefined"
        :choices="scenes.map((name) => ({ value: name, name }))"
        placeholder="Choose a scene"
        aria-label="Scene"
        @update:model-value="set({ scene: String($event) })"
      />
      <PickField
        v-else-if="about === 'gear'"
        :model-value="condition.gear || undefined"
        :choices="things"
        placeholder="Choose gear"
        aria-label="Gear"
        @update:model-value="set({ gear: String($event) })"
      />
      <PickField
        v-else-if="about === 'rolled'"
        :model-value="condition.rolled || undefined"
        :choices="outcomes"
        aria-label="Outcome"
        data-test="condition-rolled"
        @update:model-value="set({ rolled: String($event) })"
      />
      <template v-else>
        <PickField
          :model-value="condition.drawn || undefined"
          :choices="draws"
          aria-label="Draw"
          @update:model-value="set({ drawn: String($event) })"
        />
        <input
          class="well"
          aria-label="Drawn entry"
          :value="condition.value ?? ''"
          @change="set({ value: ($event.target as HTMLInputElement).value })"
        />
      </template>
    </div>
  </div>
</template>

<style scoped>
.condition {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto;
  align-items: center;
  gap: 4px 6px;
  padding: 4px 4px 6px 6px;
  border: 1px solid var(--line);
  border-radius: 10px;
}

.value {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: 6px;
}

.value > * {
  flex: 1 1 60px;
  min-width: 0;
}

.value > span {
  flex: none;
}

.sign {
  flex: 0 0 100px;
}
</style>
