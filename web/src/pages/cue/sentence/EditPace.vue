<script setup lang="ts">
import { ElCheckbox, ElOption } from 'element-plus'
import { computed } from 'vue'
import { sayDuration } from '@/logic/duration'
import DurationField from '@/parts/DurationField.vue'
import { useDraft } from '../draft'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const { cue, told } = useDraft()
/** The values that apply if the cue has none; the server decides. */
const counts = computed(() => told.value?.effective)
const QUICK = [0, 10, 30, 60, 300]

function setWindow(count: number | null, per_s: number): void {
  if (cue.value) cue.value.door.cap_window = count ? { count, per_s } : null
}
</script>

<template>
  <div v-if="cue" class="edit">
    <h2>Cooldown and limits</h2>
    <ElCheckbox
      :model-value="cue.door.cooldown_s === null"
      @update:model-value="
        (as) => cue && (cue.door.cooldown_s = as ? null : (counts?.default_cooldown_s ?? 0))
      "
    >
      Use the house default<template v-if="counts">
        ({{ sayDuration(counts.default_cooldown_s)
        }}{{ counts.shared ? ', shared by all cues' : '' }})</template
      >
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
      >Cue cooldown<DurationField
        :model-value="cue.door.cooldown_s ?? null"
        :hint="counts ? `${sayDuration(counts.default_cooldown_s)}: house default` : 'house default'"
        @update:model-value="cue.door.cooldown_s = $event"
    /></label>
    <label class="field"
      >Cooldown per viewer<DurationField
        :model-value="cue.door.viewer_cooldown_s ?? null"
        :hint="counts ? `${sayDuration(counts.default_viewer_cooldown_s)}: house default` : 'house default'"
        @update:model-value="cue.door.viewer_cooldown_s = $event"
    /></label>
    <label class="field">
      Cooldown starts
      <PickField v-model="cue.door.cooldown_from">
        <ElOption value="admitted" label="when the cue starts" />
        <ElOption value="finished" label="when the cue finishes" />
      </PickField>
    </label>
    <div class="row">
      <label class="field grow"
        >Limit per stream<NumberField
          :least="1"
          hint="no limit"
          :model-value="cue.door.cap_stream"
          @update:model-value="cue.door.cap_stream = $event"
          optional
          whole
          @clear="cue.door.cap_stream = null"
      /></label>
      <label class="field grow"
        >Limit per viewer<NumberField
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
