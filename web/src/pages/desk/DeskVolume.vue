<script setup lang="ts">
/** The master volume, and a quiet spell: softer for a while, then back by itself. */
import { ElOption, ElPopover, ElSlider } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { attempt } from '@/composables/useSay'
import { sayLeft } from '@/logic/duration'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'

const book = useBook()
const live = useLive()
const volume = ref(80)
const share = ref(0.5)
const minutes = ref(60)
const SHARES = [
  { value: 0.5, name: 'half as loud' },
  { value: 0.25, name: 'a quarter as loud' },
  { value: 0, name: 'silent' },
]

watch(
  () => book.book?.house.volume,
  (now) => (volume.value = now ?? 80),
  { immediate: true },
)

const quiet = computed(() => {
  const spell = live.state?.timing.quiet
  return spell && spell.until > live.now ? spell : null
})
const words = computed(() => {
  const spell = quiet.value
  if (!spell) return ''
  const how = SHARES.find((one) => one.value === spell.share)?.name ?? `${Math.round(spell.share * 100)} %`
  return `${how}, ${sayLeft(spell.until - live.now)} left`
})

function setQuiet(to: number): Promise<unknown> {
  return attempt(() => got(api.POST('/api/quiet', { body: { share: to, minutes: minutes.value } })))
}
</script>

<template>
  <div class="row">
    <ElPopover
      :persistent="false"
      trigger="click"
      width="300"
      placement="top-start"
      role="dialog"
      aria-label="Volume"
    >
      <template #reference
        ><button class="btn tiny" :class="{ quiet }" data-test="volume">
          {{ quiet ? `Quiet ${sayLeft(quiet.until - live.now)}` : 'Volume' }}
        </button></template
      >
      <div class="pane">
        <label class="field"
          >Volume, in %<NumberField
            :model-value="volume"
            :least="0"
            :most="100"
            data-test="volume-number"
            @update:model-value="attempt(() => book.putHouse({ volume: $event }))"
        /></label>
        <h2>Quiet spell</h2>
        <p v-if="quiet" class="row">
          <span class="grow">{{ words }}</span>
          <button class="btn" data-test="quiet-end" @click="setQuiet(1)">End it</button>
        </p>
        <template v-else>
          <div class="row">
            <PickField v-model="share" class="grow" aria-label="Level" data-test="quiet-share">
              <ElOption v-for="one in SHARES" :key="one.value" :value="one.value" :label="one.name" />
            </PickField>
            <span>for</span>
            <NumberField
              v-model="minutes"
              class="minutes"
              :least="1"
              :most="1440"
              aria-label="Minutes"
              data-test="quiet-minutes"
              narrow
            />
            <span>min</span>
          </div>
          <button class="btn main" data-test="quiet-start" @click="setQuiet(share)">Start</button>
        </template>
        <p class="soft small">Sounds already playing keep their volume.</p>
      </div>
    </ElPopover>
    <ElSlider
      v-model="volume"
      class="grow"
      aria-label="Master volume"
      @change="attempt(() => book.putHouse({ volume }))"
    />
    <span class="number">{{ volume }}</span>
  </div>
</template>

<style scoped>
.pane {
  display: grid;
  gap: 10px;
}

.pane p {
  margin: 0;
}

.minutes {
  width: 70px;
}

.quiet {
  border-color: var(--sky);
  color: var(--sky);
}
</style>
