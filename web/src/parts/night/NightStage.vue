<script setup lang="ts">
/** The overlay as it would have been at an instant of a night, and from there on, at any speed. */
import { onScopeDispose, ref, watch } from 'vue'
import { api, got, type ShowMessage } from '@/api/client'
import { attempt } from '@/composables/useSay'
import { OverlayStage } from '@/overlay/stage'
import type { OverlayMessage } from '@/api/client'

const props = defineProps<{
  rehearsal: string
  book: number
  at: number
  /** The speed factor; 0: paused. */
  speed: number
  sound: boolean
  label: string
}>()
const node = ref<HTMLElement>()
const AHEAD_MS = 20_000
const JUMP_MS = 1500

type Told = OverlayMessage & { at: number }
let stage: OverlayStage | null = null
let queue: Told[] = []
let reached = -1
let known = -1
let asking = false

/** Beats without an end of their own here: they go when told to, however fast the night plays. */
const open = (message: ShowMessage): ShowMessage => ({ ...message, until: null })

async function fetchFrom(at: number, whole: boolean): Promise<void> {
  asking = true
  const for_ms = Math.min(900_000, Math.round(AHEAD_MS * Math.max(1, props.speed)))
  const params = {
    path: { rehearsal: props.rehearsal },
    query: { book: props.book, at: Math.round(at), for_ms },
  }
  await attempt(async () => {
    const seen = await got(api.GET('/api/rehearsals/{rehearsal}/stage', { params }))
    if (whole) {
      stage?.whole((seen.up as ShowMessage[]).map(open))
      queue = []
    }
    queue.push(...(seen.then as Told[]))
    known = at + for_ms
  })
  asking = false
}

function make(): void {
  stage?.clear()
  if (!node.value) return
  stage = new OverlayStage(node.value, { sound: props.sound, picture: true, now: () => props.at })
  queue = []
  reached = props.at
  void fetchFrom(props.at, true)
}

function go(at: number): void {
  if (!stage) return
  if (at < reached || at - reached > JUMP_MS * Math.max(1, props.speed)) {
    reached = at
    known = at
    void fetchFrom(at, true)
    return
  }
  reached = at
  while (queue[0] && queue[0].at <= at) {
    const message = queue.shift() as Told
    if (message.t === 'show') stage.show(open(message))
    else if (message.t === 'hide') stage.hide(message.run, message.beat)
    else if (message.t === 'others') stage.setOthers(message.value)
  }
  if (!asking && props.speed && known - at < (AHEAD_MS / 2) * props.speed) void fetchFrom(known, false)
}

watch([node, () => props.rehearsal, () => props.book, () => props.sound], make, { flush: 'post' })
watch(() => props.at, go)
onScopeDispose(() => stage?.clear())
</script>

<template>
  <div ref="node" class="stage" role="img" :aria-label="label" data-test="night-stage"></div>
</template>

<style scoped>
.stage {
  width: 100%;
  aspect-ratio: 16 / 9;
  background: repeating-conic-gradient(var(--surface) 0% 25%, var(--ground) 0% 50%) 0 0 / 24px 24px;
  border: 1px solid var(--line);
  border-radius: 6px;
}
</style>
