<script setup lang="ts">
/** Which keys the chosen beat taps or latches: recorded by pressing them. */
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import KeyCaps from '@/parts/gear/KeyCaps.vue'
import { useFields } from './useFields'

const { beat, set, text } = useFields()
const recording = ref(false)
const held = ref<string[]>([])
const MODIFIERS = /^(Control|Shift|Alt|Meta)(Left|Right)$/

function down(event: KeyboardEvent): void {
  event.preventDefault()
  event.stopPropagation()
  if (!event.code) return
  if (!held.value.includes(event.code)) held.value = [...held.value, event.code]
  if (!MODIFIERS.test(event.code)) done()
}

/** Modifiers alone count once they are released. */
function up(event: KeyboardEvent): void {
  event.preventDefault()
  event.stopPropagation()
  if (held.value.length) done()
}

function done(): void {
  set({ combo: held.value.join('+') })
  stop()
}

function start(): void {
  held.value = []
  recording.value = true
}

function stop(): void {
  recording.value = false
}

const whole = computed(() => (recording.value ? window : null))
useEventListener(whole, 'keydown', down, true)
useEventListener(whole, 'keyup', up, true)
</script>

<template>
  <div v-if="beat" class="stack">
    <div class="row">
      <KeyCaps :combo="recording ? held.join('+') || '…' : text('combo')" :on="recording" />
      <span class="grow"></span>
      <button v-if="!recording" class="btn tiny" data-test="record-keys" @click="start">
        Press other keys
      </button>
      <button v-else class="btn tiny" @click="stop">Cancel</button>
    </div>
    <label class="field"
      >Or by name<input
        class="well"
        :value="text('combo')"
        placeholder="ControlLeft+KeyM"
        @change="
          ($event.target as HTMLInputElement).value.trim() &&
          set({ combo: ($event.target as HTMLInputElement).value.trim() })
        "
    /></label>
    <p class="soft small none">
      {{
        beat.kind === 'tap'
          ? 'Pressed once.'
          : 'Pressed at the start and again at the end. Overlapping holds still press only twice.'
      }}
    </p>
  </div>
</template>
