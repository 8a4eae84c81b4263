<script setup lang="ts">
import { ElCheckbox, ElOption } from 'element-plus'
import { useBook } from '@/composables/useBook'
import { sayDuration } from '@/logic/duration'
import DurationField from '@/parts/DurationField.vue'
import { useDraft } from '../draft'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const book = useBook()
const { cue } = useDraft()
const QUICK = [0, 10, 30, 60, 300]

function setWindow(count: number | null, per_s: number): void {
  if (cue.value) cue.value.door.cap_window = count ? { count, per_s } : null
}
</script>

<template>
  <div v-if="cue && book.book" class="edit">
    <h2>How often</h2>
    <ElCheckbox
      :model-value="cue.door.cooldown_s === null"
      @update:model-value="
        (as) => cue && (cue.door.cooldown_s = as ? null : (book.book?.house.cooldown_s ?? 0))
      "
    >
      As the house ({{ sayDuration(book.book.house.cooldown_s) }} of cooldown)
    </ElCheckbox>
    <div class="row">
      <button
        v-for="seconds in QUICK"
        :key="seconds"
        class="btn tiny"
        :data-test="`pace-${seconds}`"
        :class="{ main: cue.door.cooldown_s === seconds }"
        @click="cue.door.cooldown_s = seconds"
      >
        {{ seconds ? sayDuration(seconds) : 'none' }}
      </button>
    </div>
    <label class="field"
      >Cooldown of the cue<DurationField
        :model-value="cue.door.cooldown_s ?? null"
        hint="as the house"
        @update:model-value="cue.door.cooldown_s = $event"
    /></label>
    <label class="field"
      >Cooldown of each viewer<DurationField
        :model-value="cue.door.viewer_cooldown_s ?? null"
        hint="as the house"
        @update:model-value="cue.door.viewer_cooldown_s = $event"
    /></label>
    <label class="field">
      Counted from
      <PickField v-model="cue.door.cooldown_from">
        <ElOption value="admitted" label="when it was let in" />
        <ElOption value="finished" label="when it has finished" />
      </PickField>
    </label>
    <div class="row">
      <label class="field grow"
        >At most a stream<NumberField
          :least="1"
          hint="no limit"
          :model-value="cue.door.cap_stream"
          @update:model-value="cue.door.cap_stream = $event"
          optional
          whole
          @clear="cue.door.cap_stream = null"
      /></label>
      <label class="field grow"
        >Per viewer<NumberField
          :least="1"
          hint="no limit"
          :model-value="cue.door.cap_viewer"
          @update:model-value="cue.door.cap_viewer = $event"
          optional
          whole
          @clear="cue.door.cap_viewer = null"
      /></label>
    </div>
    <div class="row">
      <label class="field grow"
        >At most<NumberField
          :least="1"
          hint="no limit"
          :model-value="cue.door.cap_window?.count"
          @update:model-value="setWindow($event, cue.door.cap_window?.per_s ?? 60)"
          optional
          whole
          @clear="setWindow(null, cue.door.cap_window?.per_s ?? 60)"
      /></label>
      <label class="field grow"
        >within<DurationField
          :model-value="cue.door.cap_window?.per_s ?? null"
          :least="1"
          hint="any 60 s"
          @update:model-value="setWindow(cue.door.cap_window?.count ?? 1, $event)"
      /></label>
    </div>
  </div>
</template>

<style scoped>
.edit {
  display: grid;
  gap: 8px;
}
</style>
