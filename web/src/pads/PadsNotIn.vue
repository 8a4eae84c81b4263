<script setup lang="ts">
import { computed } from 'vue'
import type { LinkState } from './link'

const props = defineProps<{ state: LinkState; paired: boolean }>()

const HOW =
  'On the computer open Cue Jar, go to Pads, press Pair a device, and scan the code with this device’s camera.'
const WHY: Record<Extract<LinkState, { is: 'refused' }>['why'], [string, string]> = {
  unknown: ['This device is no longer paired.', HOW],
  expired: ['This code was already used, or has expired after two minutes.', HOW],
  wrong: ['Cue Jar rejected this device’s signature.', 'Retrying.'],
  locked: [
    'This device is locked after too many wrong signatures.',
    'Unlock it on the Pads page. It reconnects by itself.',
  ],
  slow: ['Cue Jar asks this device to wait.', 'Retrying in a moment.'],
  full: ['Too many devices are connected.', 'Retrying in a moment.'],
}
const said = computed<[string, string]>(() => {
  if (props.state.is === 'refused') return WHY[props.state.why]
  if (props.state.is === 'stranger')
    return ['This device was paired with another Cue Jar.', 'Nothing was sent. Are you on the right network?']
  if (!props.paired) return ['This device isn’t paired yet.', HOW]
  if (props.state.is === 'away') return ['Cue Jar isn’t answering.', 'Is it running? Retrying.']
  return ['Connecting…', '']
})
</script>

<template>
  <main class="not-in">
    <div role="status">
      <svg viewBox="0 0 40 44" width="96" height="106" aria-hidden="true">
        <rect x="9" y="2" width="22" height="7" rx="2" fill="var(--marmalade)" />
        <path
          d="M12 9h16v4l5 5v20a4 4 0 0 1-4 4H11a4 4 0 0 1-4-4V18l5-5z"
          fill="none"
          stroke="var(--ink)"
          stroke-width="2.5"
        />
      </svg>
      <p class="far">{{ said[0] }}</p>
      <p class="soft">{{ said[1] }}</p>
    </div>
  </main>
</template>

<style scoped>
.not-in {
  flex: 1;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  padding: 24px;
  text-align: center;
}

p {
  max-width: 34em;
  margin: 12px 0 0;
}
</style>
