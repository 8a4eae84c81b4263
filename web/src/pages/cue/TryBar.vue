<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, got } from '@/api/client'
import { attempt, say } from '@/composables/useSay'
import { sayDuration } from '@/logic/duration'
import { useDraft } from './draft'

const draft = useDraft()
const speed = ref<1 | 4 | 16>(1)
const text = ref('')
const asksText = computed(() => Boolean(draft.cue.value?.door.text))

async function onAir(): Promise<void> {
  await attempt(async () => {
    await draft.flush()
    const cue = draft.cue.value
    if (!cue || draft.state.value === 'wrong') return
    const body = {
      viewer: { name: 'hopper_kit', roles: ['follower'], tier: 1 },
      text: text.value,
      rolled: {},
      drawn: {},
      speed: speed.value,
    }
    const done = await got(api.POST('/api/cues/{cue}/try', { params: { path: { cue: cue.id } }, body }))
    if (done.failed.length) say(done.failed.join('; '), 'wrong')
    else if (done.until)
      say(
        `On air for ${sayDuration((done.until - Date.now()) / 1000)}${speed.value > 1 ? `, at ×${speed.value}` : ''}.`,
        'fine',
      )
    else say('On air.', 'fine')
    speed.value = 1
  })
}
defineExpose({ onAir })
</script>

<template>
  <div class="row">
    <input
      v-if="asksText"
      v-model="text"
      class="well text"
      placeholder="Pretend text"
      aria-label="Pretend text"
    />
    <div class="row speeds" role="radiogroup" aria-label="Speed of this try; it is not kept">
      <button
        v-for="times in [1, 4, 16] as const"
        :key="times"
        class="btn tiny"
        role="radio"
        :aria-checked="speed === times"
        :class="{ on: speed === times }"
        :title="times === 1 ? 'As it will be' : `${times} times as fast, for this try only`"
        @click="speed = times"
      >
        ×{{ times }}
      </button>
    </div>
    <button class="btn main" data-test="try" title="Shift+Space" @click="onAir">Try on air</button>
  </div>
</template>

<style scoped>
.speeds {
  gap: 2px;
}

.on {
  border-color: var(--ink);
}

.text {
  width: 150px;
}
</style>
