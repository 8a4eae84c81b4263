<script setup lang="ts">
/** A reward's picture: its own, cut square, or that of its cue. The square is moved by dragging or with the arrow keys. */
import { ElSlider } from 'element-plus'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { moved, squareOf, type Crop } from '@/logic/crop'
import { fileChoices } from '@/logic/choices'
import type { Reward } from '@/logic/tickets'
import PickField from '@/parts/PickField.vue'

const props = defineProps<{ reward: Reward; shown: string | null }>()
const emit = defineEmits<{ change: [to: Partial<Reward>] }>()
const book = useBook()
const STEP = 0.02

const choices = computed(() => [
  {
    value: '',
    name: 'as its cue, tinted',
    picture: props.reward.picture ? undefined : (props.shown ?? undefined),
  },
  ...fileChoices(book.media.filter((one) => one.kind === 'picture' || one.kind === 'clip')),
])
const media = computed(() => book.mediaById.get(props.reward.picture?.media ?? ''))
const source = computed(() => (media.value?.kind === 'picture' ? media.value.url : media.value?.poster) ?? '')
/** What is being changed; the book follows once it is let go. */
const draft = ref<Crop | null>(null)
const crop = computed<Crop>(() => draft.value ?? props.reward.picture ?? { x: 0.5, y: 0.5, zoom: 1 })
const size = ref({ width: 1, height: 1 })
const square = computed(() => squareOf(size.value, crop.value))
const percent = (part: number, whole: number): string => `${(part / whole) * 100}%`

function choose(id: string): void {
  draft.value = null
  emit('change', { picture: id ? ({ media: id } as Schemas['RewardPicture']) : null })
}

function keep(): void {
  if (draft.value && props.reward.picture)
    emit('change', { picture: { ...props.reward.picture, ...draft.value } })
  draft.value = null
}

function loaded(event: Event): void {
  const image = event.target as HTMLImageElement
  size.value = { width: image.naturalWidth || 1, height: image.naturalHeight || 1 }
}

function drag(event: PointerEvent): void {
  const frame = event.currentTarget as HTMLElement
  const box = frame.parentElement?.getBoundingClientRect()
  if (!box) return
  const [startX, startY, from] = [event.clientX, event.clientY, crop.value]
  const onMove = (at: PointerEvent): void => {
    draft.value = moved(size.value, from, {
      x: (at.clientX - startX) / box.width,
      y: (at.clientY - startY) / box.height,
    })
  }
  frame.setPointerCapture(event.pointerId)
  frame.addEventListener('pointermove', onMove)
  frame.addEventListener(
    'pointerup',
    () => {
      frame.removeEventListener('pointermove', onMove)
      keep()
    },
    { once: true },
  )
}

const KEYS: Record<string, { x: number; y: number }> = {
  ArrowLeft: { x: -STEP, y: 0 },
  ArrowRight: { x: STEP, y: 0 },
  ArrowUp: { x: 0, y: -STEP },
  ArrowDown: { x: 0, y: STEP },
}
function onKey(event: KeyboardEvent): void {
  const by = KEYS[event.key]
  if (!by) return
  event.preventDefault()
  draft.value = moved(size.value, crop.value, by)
}
</script>

<template>
  <div class="picture">
    <label class="field">
      Picture
      <PickField
        :model-value="reward.picture?.media ?? ''"
        :choices="choices"
        data-test="reward-picture"
        aria-label="Picture"
        @update:model-value="choose(String($event))"
      />
    </label>
    <div v-if="reward.picture && source" class="row cut">
      <div class="whole">
        <img :src="source" alt="" draggable="false" @load="loaded" />
        <button
          class="square"
          aria-label="Move the square"
          data-test="crop"
          :style="{
            left: percent(square.left, size.width),
            top: percent(square.top, size.height),
            width: percent(square.side, size.width),
            height: percent(square.side, size.height),
          }"
          @pointerdown.prevent="drag"
          @keydown="onKey"
          @keyup="keep"
          @blur="keep"
        ></button>
      </div>
      <label class="field grow">
        Zoom
        <ElSlider
          :model-value="crop.zoom"
          :min="1"
          :max="10"
          :step="0.1"
          :show-tooltip="false"
          aria-label="Zoom"
          @update:model-value="draft = { ...crop, zoom: Number($event) }"
          @change="keep"
        />
      </label>
      <img v-if="shown" class="result" :src="shown" alt="" width="56" height="56" />
    </div>
    <p v-else-if="reward.picture" class="soft small">The file is missing, so its cue’s picture is shown.</p>
  </div>
</template>

<style scoped>
.picture {
  display: grid;
  gap: 8px;
}

.cut {
  flex-wrap: nowrap;
  gap: 14px;
}

.whole {
  position: relative;
  flex: none;
  overflow: hidden;
  border-radius: 6px;
  line-height: 0;
}

.whole img {
  max-width: 220px;
  max-height: 150px;
}

.square {
  position: absolute;
  padding: 0;
  border: 2px solid var(--marmalade);
  background: none;
  box-shadow: 0 0 0 999px rgb(0 0 0 / 55%);
  cursor: move;
  touch-action: none;
}

.result {
  flex: none;
  border-radius: 6px;
}

p {
  margin: 0;
}
</style>
