<script setup lang="ts">
/** Features of some browsers and secure pages only: installing, keeping the screen awake, MIDI; and the background colour. */
import { useEventListener, useWakeLock } from '@vueuse/core'
import { ref } from 'vue'
import { theme } from '@/composables/useLook'
import type { Midi } from './midi'

const props = defineProps<{ midi: Midi }>()
const secure = window.isSecureContext
const awake = useWakeLock()
interface InstallEvent extends Event {
  prompt: () => Promise<unknown>
}
const install = ref<InstallEvent | null>(null)
useEventListener(window, 'beforeinstallprompt', (event: Event) => {
  event.preventDefault()
  install.value = event as InstallEvent
})

function nameOf(does: object): string {
  return 'pad' in does ? String(does.pad) : 'rest' in does ? 'All to rest' : 'Volume'
}
const { learning, learned, names, on, problem } = props.midi
</script>

<template>
  <section class="card more" aria-label="More">
    <div class="row">
      <button class="btn" @click="theme = theme === 'night' ? 'paper' : 'night'">Dark or light</button>
      <button
        v-if="secure && awake.isSupported.value"
        class="btn"
        role="switch"
        :aria-checked="awake.isActive.value"
        @click="awake.isActive.value ? awake.release() : awake.request('screen')"
      >
        {{ awake.isActive.value ? 'The screen stays on' : 'Keep the screen on' }}
      </button>
      <button v-if="install" class="btn" @click="install.prompt()">Install</button>
      <button v-if="secure && midi.can && !on" class="btn" @click="midi.begin()">Use a MIDI device</button>
    </div>
    <p v-if="!secure" class="soft small">
      Keeping the screen on, installing and MIDI need HTTPS, or a browser on this computer.
    </p>
    <template v-if="on">
      <p class="small">
        <strong>MIDI:</strong> {{ names.join(', ') }} <span class="wrong">{{ problem }}</span>
      </p>
      <div class="row">
        <button
          class="btn tiny"
          :aria-pressed="learning !== null && 'pad' in learning"
          @click="learning = { pad: '' }"
        >
          Learn a pad
        </button>
        <button class="btn tiny" @click="learning = { rest: true }">Learn All to rest</button>
        <button class="btn tiny" @click="learning = { volume: true }">Learn Volume</button>
      </div>
      <p v-if="learning" class="small" role="status">
        {{
          'pad' in learning && !learning.pad
            ? 'Press a pad here…'
            : `Now press the key of ${nameOf(learning)} on the device…`
        }}
        <button class="btn tiny" @click="learning = null">Cancel</button>
      </p>
      <ul v-if="Object.keys(learned).length" class="small">
        <li v-for="(does, key) in learned" :key="key" class="row">
          <span class="grow">{{ key }}: {{ nameOf(does) }}</span>
          <button class="btn tiny" :aria-label="`Forget ${key}`" @click="midi.forget(String(key))">
            Forget
          </button>
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.more {
  flex: none;
  max-height: 50dvh;
  overflow-y: auto;
  margin: 10px 12px 0;
  display: grid;
  gap: 10px;
}

p,
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

.wrong {
  color: var(--berry);
}
</style>
