<script setup lang="ts">
/** The talking picture of the chosen speech on the stage: dragged into place, resized by its corner. */
import { computed, ref } from 'vue'
import { useBook } from '@/composables/useBook'
import type { Place } from '@/composables/useCueDraft'
import { round4 } from '@/logic/arrange'
import { dragOn, within } from '../dragOn'
import { useFields } from '../settings/useFields'

const book = useBook()
const { beat, set } = useFields()
const root = ref<HTMLElement>()
const place = computed(
  () => (beat.value?.mouth_place as Place | undefined) ?? { x: 0.72, y: 0.3, w: 0.24, h: 0.44 },
)
/** The mouth of the speaker, or of the first part that has one. */
const face = computed(() => {
  const cast = (book.book?.cast ?? []).filter((part) => part.mouths.length > 1)
  const part = cast.find((one) => one.id === beat.value?.part) ?? cast[0]
  return book.mediaById.get(part?.mouths[0] ?? '')?.poster
})

function drag(event: PointerEvent): void {
  const start = place.value
  dragOn(root.value, event, (_x, _y, dx, dy) => {
    const to = { x: start.x + dx, y: start.y + dy }
    set({ mouth_place: { ...start, x: round4(within(to.x, -0.5, 1)), y: round4(within(to.y, -0.5, 1)) } })
  })
}

function stretch(event: PointerEvent): void {
  const start = place.value
  dragOn(root.value, event, (x, y) => {
    const w = round4(within(x - start.x, 0.04, 1.5))
    const h = round4(within(y - start.y, 0.04, 1.5))
    set({ mouth_place: { ...start, w, h } })
  })
}
</script>

<template>
  <div ref="root" class="whole">
    <div
      class="mouth"
      data-test="stage-mouth"
      title="Talking picture: drag to move"
      :style="{
        left: `${place.x * 100}%`,
        top: `${place.y * 100}%`,
        width: `${place.w * 100}%`,
        height: `${place.h * 100}%`,
      }"
      @pointerdown.stop.prevent="drag"
    >
      <img v-if="face" :src="face" alt="" draggable="false" />
      <span v-else>mouth</span>
      <i class="corner" title="Drag to resize" @pointerdown.stop.prevent="stretch"></i>
    </div>
  </div>
</template>

<style scoped>
.whole {
  position: absolute;
  inset: 0;
  pointer-events: none;
  z-index: 1400;
}

.mouth {
  position: absolute;
  pointer-events: auto;
  cursor: move;
  border: 2px dashed var(--rose);
  display: grid;
  place-items: center;
}

img {
  width: 100%;
  height: 100%;
  object-fit: contain;
}

.corner {
  position: absolute;
  right: -7px;
  bottom: -7px;
  width: 14px;
  height: 14px;
  background: var(--rose);
  border-radius: 50%;
  cursor: nwse-resize;
}
</style>
