<script setup lang="ts">
/** A first call: redeemed at the channel, or by a pretend viewer; and its progress. */
import { computed, onMounted, ref, watch } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { useOpening } from '@/composables/useOpening'
import { attempt, say } from '@/composables/useSay'
import { wayOf } from '@/logic/opening'

const book = useBook()
const live = useLive()
const { said, cues } = useOpening()
const simulated = ref<string | null>(null)
const busy = ref(false)
/** The first cue that a reward calls. */
const called = computed(() => {
  for (const cue of cues.value) {
    const call = cue.calls.find((one) => one.kind === 'reward')
    const reward = book.book?.rewards.find((one) => call?.kind === 'reward' && one.id === call.reward)
    if (reward) return { cue, reward }
  }
  return null
})
const line = computed(() =>
  live.lines.find((one) => one.cue === called.value?.cue.id && one.kind === 'redemption'),
)
const wasUp = ref('')
watch(
  () => live.running.find((run) => run.run === line.value?.run)?.run,
  (run) => {
    if (run) wasUp.value = run
  },
)
const way = computed(() =>
  wayOf(line.value, live.running, Boolean(line.value) && wasUp.value === line.value?.run),
)
const steps = computed(
  () =>
    [
      ['let in', way.value.letIn],
      ['up', way.value.up],
      ['gone', way.value.gone],
      ['fulfilled', way.value.fulfilled],
    ] as const,
)
const TEXT = 'Mind the gap!'

async function redeem(): Promise<void> {
  if (!called.value) return
  busy.value = true
  const { reward } = called.value
  const body = { viewer: 'owlpost', reward: reward.title, text: reward.text ? TEXT : '' }
  await attempt(() => got(api.POST('/api/simulated/redemptions', { body })))
  busy.value = false
}

async function pretend(): Promise<void> {
  if (!cues.value[0]) return
  const cue = called.value?.cue ?? cues.value[0]
  await attempt(async () => {
    const viewer = { name: 'hopper_kit', roles: ['follower'], tier: 1 }
    const body = { viewer, text: TEXT, rolled: {}, drawn: {}, speed: 1 as const }
    const tried = await got(
      api.POST('/api/cues/{cue_id}/try', { params: { path: { cue_id: cue.id } }, body }),
    )
    if (tried.failed.length) return say(tried.failed.join('; '), 'wrong')
    said.value.pretended = true
    say(`${cue.name} is on. This is a try: it costs nothing and isn’t counted.`, 'fine')
  })
}

onMounted(() =>
  attempt(async () => {
    simulated.value = (await got(api.GET('/api/simulated'))).address
  }),
)
</script>

<template>
  <p v-if="!cues.length" class="soft none">Make a cue first.</p>
  <template v-else>
    <p v-if="called" class="none">
      Redeem <strong>{{ called.reward.title }}</strong> at your channel, for {{ called.reward.cost }} points.
      <a v-if="simulated" :href="simulated" target="_blank" rel="noreferrer">Be a viewer there</a>
    </p>
    <div class="row">
      <button v-if="simulated && called" class="btn main" data-test="redeem" :disabled="busy" @click="redeem">
        Have owlpost redeem it
      </button>
      <button class="btn" :class="{ main: !simulated }" data-test="pretend-call" @click="pretend">
        Call as a pretend viewer
      </button>
    </div>
    <ol class="way" aria-label="Progress of the call">
      <li v-for="[name, is] in steps" :key="name" :class="{ is }" :data-step="name" :data-is="is">
        {{ name }}
      </li>
    </ol>
    <p v-if="line?.verdict === 'turned_away'" class="wrong none">
      It was refused: {{ line.detail || line.reason }}.
    </p>
  </template>
</template>

<style scoped>
.none {
  margin: 0;
}

.way {
  display: flex;
  gap: 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}

.way li {
  flex: 1;
  padding: 8px;
  border: 2px dashed var(--line);
  border-radius: 8px;
  color: var(--soft);
  text-align: center;
  font: 620 16px var(--display);
}

.way .is {
  border: 2px solid var(--mint);
  color: var(--mint);
}

.wrong {
  color: var(--berry);
}
</style>
