<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, got } from '@/api/client'
import { useLive } from '@/composables/useLive'
import { canBeHeld, usePadOrder } from '@/composables/usePadOrder'
import { keysOf } from '@/logic/pads'
import { useReasons } from '@/composables/useReasons'
import { attempt, say } from '@/composables/useSay'
import PadButton from '@/parts/pads/PadButton.vue'
import DeskOutputs from './DeskOutputs.vue'
import DeskReady from './DeskReady.vue'
import DeskVolume from './DeskVolume.vue'

const live = useLive()
const reasons = useReasons()

const { withPad } = usePadOrder()
/** Pads with a key: their own, or one of the upper row. */
const keys = computed(() => keysOf(withPad.value))
const pads = computed(() => withPad.value.filter((cue) => keys.value.has(cue.id)))
const buttons = ref<InstanceType<typeof PadButton>[]>([])

async function fire(cue: string): Promise<void> {
  const done = await got(api.POST('/api/cues/{cue_id}/fire', { params: { path: { cue_id: cue } } }))
  if (done.verdict === 'turned_away')
    say(`Refused: ${reasons.value[done.reason ?? ''] ?? done.reason}`, 'wrong')
}

async function letGo(cue: string): Promise<void> {
  await got(api.POST('/api/cues/{cue_id}/let-go', { params: { path: { cue_id: cue } } }))
}

/** The pad's button for a pressed key; none while the streamer types in a field. */
function buttonOf(event: KeyboardEvent): InstanceType<typeof PadButton> | undefined {
  const on = event.target as HTMLElement
  const typing = on.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(on.tagName)
  if (
    typing ||
    event.ctrlKey ||
    event.metaKey ||
    event.altKey ||
    event.shiftKey ||
    on.closest('[role=dialog]')
  )
    return
  const at = pads.value.findIndex((cue) => keys.value.get(cue.id) === event.key.toLowerCase())
  return buttons.value[at]
}

useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  if (!event.repeat) buttonOf(event)?.onDown()
})
useEventListener(window, 'keyup', (event: KeyboardEvent) => buttonOf(event)?.lift())
</script>

<template>
  <section class="card foot">
    <DeskVolume class="volume" />
    <DeskOutputs />
    <DeskReady />
    <div class="pads" role="group" aria-label="Pads">
      <PadButton
        v-for="cue in pads"
        :key="cue.id"
        ref="buttons"
        :name="cue.name"
        :face="{ ...cue.pad, size: 'small' }"
        :holds="canBeHeld(cue)"
        :row="live.padRows.get(cue.id)"
        :now="live.padRows.has(cue.id) ? live.now : 0"
        compact
        :hint="(keys.get(cue.id) ?? '').toUpperCase()"
        :data-pad="cue.id"
        @press="attempt(() => fire(cue.id))"
        @let-go="attempt(() => letGo(cue.id))"
      />
      <span v-if="!pads.length" class="soft none">Your cues’ pads appear here.</span>
    </div>
  </section>
</template>

<style scoped>
.foot {
  display: flex;
  align-items: center;
  gap: 20px;
  padding-block: 8px;
}

.volume {
  width: 200px;
  flex: none;
  gap: 14px;
}

.number {
  font-family: var(--display);
  font-weight: 700;
  width: 28px;
}

.pads {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.pads {
  flex: 1;
  min-width: 0;
  display: grid;
  grid-template-columns: repeat(5, minmax(0, 1fr));
  --pad-height: 54px;
  --pad-font: 14px;
}

.none {
  grid-column: 1 / -1;
}

@media (max-width: 1120px) {
  .foot {
    flex-wrap: wrap;
    gap: 10px;
  }

  .pads {
    flex-basis: 100%;
    grid-template-columns: repeat(auto-fill, minmax(105px, 1fr));
  }
}
</style>
