<script setup lang="ts">
/** Lit while a microphone is open. While a key must be held to speak, it is that key, and so is the one under Escape. */
import { Microphone } from '@element-plus/icons-vue'
import { useEventListener, useIntervalFn } from '@vueuse/core'
import { computed, onScopeDispose, ref, watch } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { isTyping } from '@/logic/keys'

const AGAIN_MS = 500
const KEY = 'Backquote'
const book = useBook()
const live = useLive()
const page = `page-${Math.random().toString(36).slice(2)}`
const mode = computed(() => book.book?.house.listening ?? 'off')
const isHeld = ref(false)
const hint = computed(() =>
  live.state?.listens ? 'Listening' : mode.value === 'held' ? 'Hold to speak a phrase (`)' : 'Not listening',
)

function tell(): void {
  void got(api.POST('/api/voice/held', { body: { page, on: isHeld.value } })).catch(() => undefined)
}
const again = useIntervalFn(tell, AGAIN_MS, { immediate: false })
watch(isHeld, (held) => {
  tell()
  if (held) again.resume()
  else again.pause()
})
function hold(on: boolean): void {
  isHeld.value = on && mode.value === 'held'
}
useEventListener('keydown', (event) => {
  if (event.code === KEY && !event.repeat && !isTyping(event)) hold(true)
})
useEventListener('keyup', (event) => {
  if (event.code === KEY) hold(false)
})
useEventListener('blur', () => hold(false))
useEventListener('pointerup', () => hold(false))
onScopeDispose(() => hold(false))
</script>

<template>
  <button
    v-if="mode !== 'off' || live.state?.listens"
    class="btn bare talk"
    :class="{ on: live.state?.listens }"
    :title="hint"
    :aria-label="hint"
    :aria-pressed="isHeld"
    data-test="talk"
    @pointerdown="hold(true)"
    @keydown.space.prevent="hold(true)"
    @keyup.space="hold(false)"
  >
    <Microphone class="icon" />
  </button>
</template>

<style scoped>
.talk {
  flex: none;
  padding: 6px;
}

.icon {
  display: block;
  width: 20px;
  height: 20px;
}

.talk.on {
  background: var(--berry);
  color: var(--ground);
}
</style>
