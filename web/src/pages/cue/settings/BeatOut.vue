<script setup lang="ts">
/** What the chosen beat sends out or changes: a hook, a reward's switch or price, another cue. */
import { ElCheckbox, ElOption } from 'element-plus'
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import DurationField from '@/parts/DurationField.vue'
import { useDraft } from '../draft'
import { useFields } from './useFields'
import { cueChoices } from '@/logic/choices'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const EXAMPLE = '{"viewer": "{{viewer}}"}'
const book = useBook()
const draft = useDraft()
const { beat, set, number, text } = useFields()
const hooks = computed(() => (book.book?.gear ?? []).filter((g) => g.kind === 'hook'))
const rewards = computed(() => book.book?.rewards ?? [])
const sets = computed(() => book.book?.sets ?? [])
const chosen = computed(() => ({ rewards: beat.value?.rewards ?? [], sets: beat.value?.sets ?? [] }))
const on = computed(() => (beat.value?.on === true ? 'on' : beat.value?.on === false ? 'off' : ''))
/** A cue that fires itself would never end. */
const others = computed(() => (book.book?.cues ?? []).filter((cue) => cue.id !== draft.cue.value?.id))
const cues = computed(() => cueChoices(others.value, book.mediaById, book.book?.jars ?? []))

/** At least one of either stays. */
function toggle(what: 'rewards' | 'sets', id: string, wanted: boolean): void {
  const others = chosen.value[what].filter((other) => other !== id)
  const next = { ...chosen.value, [what]: wanted ? [...others, id] : others }
  if (next.rewards.length + next.sets.length) set({ [what]: next[what] })
}

function setOn(value: string): void {
  const now = value === '' ? null : value === 'on'
  set({ on: now, cost: now === null ? (beat.value?.cost ?? 100) : beat.value?.cost })
}
</script>

<template>
  <div v-if="beat" class="stack">
    <template v-if="beat.kind === 'hook'">
      <label class="field"
        >Hook
        <PickField :model-value="text('hook')" @update:model-value="set({ hook: $event })">
          <ElOption v-for="one in hooks" :key="one.id" :value="one.id" :label="one.name || one.id" />
        </PickField>
      </label>
      <label class="field"
        >Body (JSON); empty uses the hook’s own<textarea
          class="well"
          rows="3"
          :value="text('payload')"
          :placeholder="EXAMPLE"
          @change="set({ payload: ($event.target as HTMLTextAreaElement).value })"
        ></textarea>
      </label>
      <ElCheckbox
        :model-value="typeof beat.then_s === 'number'"
        @update:model-value="set({ then_s: $event ? 10 : null })"
        >Second call later</ElCheckbox
      >
      <div v-if="typeof beat.then_s === 'number'" class="stack">
        <label class="field"
          >after<DurationField
            :model-value="number('then_s', 10)"
            :least="0.1"
            @update:model-value="set({ then_s: $event })"
        /></label>
        <label class="field"
          >with the body<textarea
            class="well"
            rows="2"
            :value="text('then_payload')"
            @change="set({ then_payload: ($event.target as HTMLTextAreaElement).value })"
          ></textarea>
        </label>
      </div>
    </template>
    <template v-else-if="beat.kind === 'reward'">
      <fieldset v-if="sets.length" class="small">
        <legend class="soft">Sets</legend>
        <ElCheckbox
          v-for="one in sets"
          :key="one.id"
          :model-value="chosen.sets.includes(one.id)"
          @update:model-value="toggle('sets', one.id, Boolean($event))"
          >{{ one.name }}</ElCheckbox
        >
      </fieldset>
      <fieldset class="small">
        <legend class="soft">Rewards</legend>
        <ElCheckbox
          v-for="one in rewards"
          :key="one.id"
          :model-value="chosen.rewards.includes(one.id)"
          @update:model-value="toggle('rewards', one.id, Boolean($event))"
          >{{ one.title }}</ElCheckbox
        >
      </fieldset>
      <div class="two">
        <label class="field"
          >Switch
          <PickField :model-value="on" @update:model-value="setOn($event)">
            <ElOption value="off" label="off" />
            <ElOption value="on" label="on" />
            <ElOption value="" label="unchanged" />
          </PickField>
        </label>
        <label class="field"
          >cost<NumberField
            :least="1"
            :model-value="beat.cost"
            hint="unchanged"
            @update:model-value="set({ cost: $event })"
            optional
            whole
            @clear="set({ cost: null })"
        /></label>
      </div>
    </template>
    <label v-else-if="beat.kind === 'fire'" class="field"
      >Cue
      <PickField :model-value="text('cue')" :choices="cues" @update:model-value="set({ cue: $event })" />
    </label>
  </div>
</template>
