<script setup lang="ts">
import { computed } from 'vue'
import type { LinkState } from './link'

const props = defineProps<{ state: LinkState; paired: boolean }>()

const HOW =
  'On the computer open Cue Jar, go to Pads, press Pair a device, and scan the code with this device’s camera.'
const WHY: Record<Extract<LinkState, { is: 'refused' }>['why'], [string, string]> = {
  unknown: ['This device is not paired any more.', HOW],
  expired: ['This code was used already, or its two minutes are over.', HOW],
  wrong: ['Cue Jar did not take this device’s signature.', 'It is tried again.'],
  locked: [
    'This device is locked, after many wrong signatures in its name.',
    'Unlock it in Cue Jar, on the page Pads. Then it comes back by itself.',
  ],
  slow: ['Cue Jar asks this device to wait.', 'It is tried again in a moment.'],
  full: ['Too many devices are connected.', 'It is tried again in a moment.'],
}
const said = computed<[string, string]>(() => {
  if (props.state.is === 'refused') return WHY[props.state.why]
  if (props.state.is === 'stranger')
    return [
      'This is not the Cue Jar that this device was paired with.',
      'Nothing was sent. Is it the right net?',
    ]
  if (!props.paired) return ['This device is not paired yet.', HOW]
  if (props.state.is === 'away')
    return ['Cue Jar does not answer.', 'Is it running? It is tried again by itself.']
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
