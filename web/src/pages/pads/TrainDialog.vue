<script setup lang="ts">
/** A phrase is trained: said three times, then a minute of ordinary talk, then the figures are found. */
import { ElDialog, ElProgress } from 'element-plus'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import LevelBar from './LevelBar.vue'

const props = defineProps<{ training: Schemas['TrainingOut']; level: number; open: boolean }>()
const emit = defineEmits<{ step: [step: 'say' | 'talk' | 'find']; end: [] }>()
const SAYINGS = 3
const saidAll = computed(() => props.training.sayings >= SAYINGS)
const busy = computed(() => ['saying', 'talking', 'finding'].includes(props.training.step))
const percent = computed(() => Math.round(props.training.share * 100))
const isDone = computed(() => props.training.step === 'done' && !props.training.problem)
</script>

<template>
  <ElDialog
    append-to="#over"
    :model-value="true"
    :title="`“${training.phrase}”`"
    width="min(520px, 94%)"
    :close-on-click-modal="false"
    @close="emit('end')"
  >
    <div class="train" data-test="training">
      <ol>
        <li :class="{ done: saidAll }">
          <span>Say it three times, as you will on stream</span>
          <span class="count">{{ Math.min(training.sayings, SAYINGS) }} of {{ SAYINGS }}</span>
          <button
            class="btn"
            :disabled="busy"
            data-test="say"
            :class="{ main: !saidAll }"
            @click="emit('step', 'say')"
          >
            {{ saidAll ? 'Say it again' : 'Say it' }}
          </button>
        </li>
        <li :class="{ done: training.talked }">
          <span>Talk for a minute about anything else</span>
          <button
            class="btn"
            :disabled="busy || !saidAll"
            data-test="talk-minute"
            :class="{ main: saidAll && !training.talked }"
            @click="emit('step', 'talk')"
          >
            Start
          </button>
        </li>
        <li :class="{ done: isDone }">
          <span>Find how it differs from your talk</span>
          <button
            class="btn"
            :disabled="busy || !saidAll || !training.talked"
            data-test="find"
            :class="{ main: saidAll && training.talked && !isDone }"
            @click="emit('step', 'find')"
          >
            Find
          </button>
        </li>
      </ol>
      <p v-if="training.step === 'saying'" class="now">
        {{ open ? 'Speak now.' : 'Opening the microphone…' }}
      </p>
      <LevelBar v-if="training.step === 'saying' || training.step === 'talking'" :level="level" />
      <ElProgress
        v-if="training.step === 'talking' || training.step === 'finding'"
        :percentage="percent"
        :stroke-width="10"
      />
      <p v-if="training.problem" class="wrong" role="alert">{{ training.problem }}</p>
      <p v-if="isDone" class="fine" data-test="trained">
        Trained. All three were found, and none in your talk.
      </p>
    </div>
    <template #footer>
      <button class="btn" :class="{ main: isDone }" data-test="end-training" @click="emit('end')">
        {{ isDone ? 'Close' : 'Cancel' }}
      </button>
    </template>
  </ElDialog>
</template>

<style scoped>
.train {
  display: grid;
  gap: 12px;
}

ol {
  display: grid;
  gap: 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 56px 104px;
  align-items: center;
  gap: 8px;
}

li .btn {
  grid-column: 3;
}

li.done {
  color: var(--mint);
}

.count {
  font-variant-numeric: tabular-nums;
  text-align: right;
}

.now {
  font: 700 22px var(--display);
}

p {
  margin: 0;
}

.wrong {
  color: var(--berry);
}

.fine {
  color: var(--mint);
}
</style>
