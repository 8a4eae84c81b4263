<script setup lang="ts">
import { ElOption, ElPopover } from 'element-plus'
import { watchDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, got } from '@/api/client'
import { sayDuration } from '@/logic/duration'
import type { AnyBeat } from '@/api/client'
import type { Outcome } from '@/logic/beats'
import { sayValue } from '@/logic/words'
import { useDraft, useTrying } from '../draft'
import PickField from '@/parts/PickField.vue'

const draft = useDraft()
const { pretend, playing, returns, here, stop, onAir } = useTrying()
const draws = computed(() => draft.beats.value.filter((beat) => beat.kind === 'draw'))
const chances = computed(() => draft.beats.value.filter((beat) => beat.kind === 'chance'))

const open = ref(false)
/** Why the door would refuse the pretended viewer; empty: it wouldn't. */
const away = ref('')
watchDebounced(
  [open, () => JSON.stringify(pretend), () => JSON.stringify(draft.cue.value)],
  async () => {
    if (!open.value || !draft.cue.value) return
    const body = {
      value: draft.cue.value as unknown as Record<string, never>,
      viewer: { name: pretend.name || 'hopper_kit', roles: pretend.role ? [pretend.role] : [], tier: 1 },
      text: pretend.text,
      in_min: 0,
    }
    const answer = await got(api.POST('/api/building/door', { body })).catch(() => null)
    away.value = answer && !answer.let_in ? answer.reason : ''
  },
  { debounce: 250 },
)

function outcomes(beat: AnyBeat): Outcome[] {
  return beat.outcomes ?? []
}
</script>

<template>
  <div class="row">
    <ElPopover
      :persistent="false"
      v-model:visible="open"
      role="dialog"
      aria-label="Pretend"
      trigger="click"
      width="320"
      placement="bottom"
    >
      <template #reference
        ><button class="btn" data-test="pretend">As {{ pretend.name }}</button></template
      >
      <div class="pretend">
        <h2>Pretend</h2>
        <p v-if="away" class="small away" data-test="pretend-away">
          On air, they would be refused: {{ away }}. A try plays it anyway.
        </p>
        <label class="field">Viewer<input v-model="pretend.name" class="well" maxlength="60" /></label>
        <label class="field">
          Role
          <PickField v-model="pretend.role">
            <ElOption value="" label="anyone" />
            <ElOption
              v-for="role in ['follower', 'member', 'vip', 'moderator']"
              :key="role"
              :value="role"
              :label="role"
            />
          </PickField>
        </label>
        <label class="field"
          >Text<input v-model="pretend.text" class="well" data-test="pretend-text" placeholder="message text"
        /></label>
        <label v-for="beat in chances" :key="beat.id" class="field">
          {{ beat.id }} rolls
          <PickField
            :model-value="pretend.rolled[beat.id] ?? ''"
            :data-test="`force-${beat.id}`"
            @update:model-value="pretend.rolled[beat.id] = $event"
          >
            <ElOption value="" label="random" />
            <ElOption v-for="o in outcomes(beat)" :key="o.id" :value="o.id" :label="o.name || o.id" />
          </PickField>
        </label>
        <template v-for="beat in draws" :key="beat.id">
          <label class="field">
            Drawn
            <PickField
              :model-value="pretend.rolled[beat.id] ?? ''"
              :data-test="`force-${beat.id}`"
              @update:model-value="pretend.rolled[beat.id] = $event"
            >
              <ElOption value="" label="somebody" />
              <ElOption value="nobody" label="nobody" />
            </PickField>
          </label>
          <label v-if="!pretend.rolled[beat.id]" class="field">
            Their name
            <input v-model="pretend.drawn[beat.id]" class="well" maxlength="60" placeholder="random" />
          </label>
        </template>
        <div class="row" role="radiogroup" aria-label="Speed of this try only">
          <button
            v-for="times in [1, 4, 16] as const"
            :key="times"
            class="btn tiny"
            role="radio"
            :aria-checked="pretend.speed === times"
            :class="{ on: pretend.speed === times }"
            @click="pretend.speed = times"
          >
            ×{{ times }}
          </button>
          <span class="soft small">Next try only</span>
        </div>
        <p v-for="back in returns" :key="back.path" class="small back">
          {{ back.name }}: {{ sayValue(back.value) }} at {{ sayDuration(back.at / 1000) }}, then back to
          {{ sayValue(back.returns_to) }}
        </p>
      </div>
    </ElPopover>
    <button class="btn" data-test="try-here" title="Space" @click="playing ? stop() : here()">
      {{ playing ? 'Stop' : 'Try here' }}
    </button>
    <button class="btn main" data-test="try" title="Shift+Space" @click="onAir">Try on air</button>
  </div>
</template>

<style scoped>
.pretend {
  display: grid;
  gap: 8px;
}

.away {
  margin: 0;
  color: var(--marmalade);
}

.on {
  border-color: var(--ink);
}

.back {
  margin: 0;
  color: var(--mint);
}
</style>
