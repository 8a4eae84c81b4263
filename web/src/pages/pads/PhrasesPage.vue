<script setup lang="ts">
/** Phrases that the streamer says: when they are heard, by which microphone, and whether each is trained. */
import { ElSegmented } from 'element-plus'
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { useVoice } from '@/composables/useVoice'
import PickField from '@/parts/PickField.vue'
import LevelBar from './LevelBar.vue'
import TrainDialog from './TrainDialog.vue'

const book = useBook()
const { voice, train, step, end, forget, look } = useVoice()
const MODES = [
  { value: 'off', label: 'Off' },
  { value: 'held', label: 'While a key is held' },
  { value: 'always', label: 'Always' },
]
type Mode = 'off' | 'held' | 'always'
const house = computed(() => book.book?.house)
const microphones = computed(() => [
  { value: '', name: 'the system’s own' },
  ...[
    ...new Set([
      ...(voice.value?.microphones ?? []),
      ...(house.value?.microphone ? [house.value.microphone] : []),
    ]),
  ].map((name) => ({ value: name, name })),
])
const cueOf = (id: string): string => book.book?.cues.find((cue) => cue.id === id)?.name ?? id

async function set(to: { listening?: Mode; microphone?: string | null }): Promise<void> {
  await book.putHouse(to)
}
/** Writes the offered sounds into the calls of a phrase. */
async function spell(phrase: string, sounds: string): Promise<void> {
  for (const cue of book.book?.cues ?? []) {
    if (!cue.calls.some((call) => call.kind === 'said' && call.phrase === phrase)) continue
    const calls = cue.calls.map((call) =>
      call.kind === 'said' && call.phrase === phrase ? { ...call, sounds } : call,
    )
    await book.put('cues', { ...cue, calls })
  }
}
function stateOf(one: { trained: boolean; problem: string }): string {
  if (one.problem) return one.problem
  return one.trained ? 'trained' : 'not trained'
}
</script>

<template>
  <div v-if="voice && house" class="phrases">
    <section class="card listening">
      <div class="card-title">
        <h1 class="grow">Phrases</h1>
        <span v-if="voice.open" class="on" data-test="listens">Listening</span>
      </div>
      <p class="soft">
        Say a phrase, and its cues are called. It is heard on this computer; nothing is recorded or sent.
      </p>
      <div class="row wrap">
        <ElSegmented
          :model-value="voice.mode"
          :options="MODES"
          aria-label="When to listen"
          data-test="listening"
          @update:model-value="attempt(() => set({ listening: $event as Mode }))"
        />
        <label class="row" @pointerdown="attempt(look)">
          Microphone
          <PickField
            class="microphone"
            :model-value="house.microphone ?? ''"
            :choices="microphones"
            aria-label="Microphone"
            @update:model-value="attempt(() => set({ microphone: String($event) || null }))"
          />
        </label>
        <LevelBar class="level" :level="voice.level" />
      </div>
      <p v-if="voice.mode === 'held'" class="soft small">
        Hold <kbd>`</kbd> or the microphone at the top of the page while you speak.
      </p>
      <p v-if="voice.problem" class="wrong" role="alert">{{ voice.problem }}</p>
      <p v-if="voice.latest" class="soft small" data-test="latest">Heard last: “{{ voice.latest }}”</p>
    </section>
    <section class="card">
      <ul v-if="voice.phrases.length">
        <li v-for="one in voice.phrases" :key="one.phrase" :data-phrase="one.phrase">
          <span class="grow">
            <strong>“{{ one.phrase }}”</strong>
            <span class="small soft">
              calls
              <template v-for="(cue, i) in one.cues" :key="cue"
                >{{ i ? ', ' : '' }}<RouterLink :to="`/cues/${cue}`">{{ cueOf(cue) }}</RouterLink></template
              >
            </span>
          </span>
          <span v-if="one.sure.length" class="sure" title="How surely each saying was found">
            <LevelBar v-for="(share, i) in one.sure" :key="i" :level="share" />
          </span>
          <span class="small" :class="one.problem ? 'wrong' : one.trained ? 'fine' : 'soft'">{{
            stateOf(one)
          }}</span>
          <button
            v-if="one.offer"
            class="btn tiny"
            :title="one.offer"
            data-test="spell"
            @click="attempt(() => spell(one.phrase, one.offer))"
          >
            Use the offered sounds
          </button>
          <button v-if="one.trained" class="btn tiny" @click="attempt(() => forget(one.phrase))">
            Forget
          </button>
          <button
            class="btn tiny"
            :disabled="!one.phones.length"
            data-test="train"
            @click="attempt(() => train(one.phrase))"
          >
            {{ one.trained ? 'Train again' : 'Train' }}
          </button>
        </li>
      </ul>
      <p v-else class="soft none">
        No phrases yet. In a cue, open Calls, choose Phrase, and write what you want to say.
      </p>
    </section>
    <TrainDialog
      v-if="voice.training.phrase"
      :training="voice.training"
      :level="voice.level"
      :open="voice.open"
      @step="attempt(() => step($event))"
      @end="attempt(end)"
    />
  </div>
</template>

<style scoped>
.phrases {
  display: grid;
  gap: 12px;
  max-width: 980px;
  margin: 0 auto;
}

.listening {
  display: grid;
  gap: 10px;
}

.wrap {
  flex-wrap: wrap;
  gap: 10px 20px;
}

.microphone {
  width: 220px;
}

.level {
  width: 160px;
}

.on {
  padding: 2px 12px;
  border-radius: 12px;
  background: var(--berry);
  color: var(--ground);
  font-weight: 700;
}

.wrong {
  color: var(--berry);
}

.fine {
  color: var(--mint);
}

.sure {
  display: flex;
  gap: 4px;
}

.sure > * {
  width: 36px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
  min-height: 44px;
  border-top: 1px solid var(--line);
}

li:first-child {
  border-top: 0;
}

p {
  margin: 0;
}

kbd {
  font: inherit;
  padding: 0 6px;
  border: 1px solid var(--line);
  border-radius: 4px;
}
</style>
