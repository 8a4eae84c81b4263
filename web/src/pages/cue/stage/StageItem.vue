<script setup lang="ts">
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import type { AnyBeat } from '@/api/client'
import type { Place } from '@/composables/useCueDraft'
import { markOf } from '@/parts/marks'
import OutputMark from '@/parts/OutputMark.vue'
import { fileOf, jarIn, showsFace } from '@/logic/beats'
import { filledFor } from '@/logic/templates'
import { useTrying } from '../draft'
import StageFrame from './StageFrame.vue'

const props = defineProps<{ beat: AnyBeat; chosen: boolean; frameHeight: number; covered: boolean }>()
const book = useBook()
const { pretend } = useTrying()

const place = computed(() => props.beat.place as Place)
const media = computed(() => {
  const jar = book.book?.jars.find((j) => j.id === jarIn(props.beat.media))
  return book.mediaById.get(fileOf(props.beat) || (jar?.entries[0]?.value ?? ''))
})
const hasMedia = computed(() => Boolean(props.beat.media))
const fromJar = computed(() => Boolean(jarIn(props.beat.media)))
const text = computed(() => (typeof props.beat.text === 'string' ? filledFor(props.beat.text, pretend) : ''))
</script>

<template>
  <div
    class="item"
    :class="{ chosen, covered }"
    :data-beat="beat.id"
    :style="{
      left: `${place.x * 100}%`,
      top: `${place.y * 100}%`,
      width: `${place.w * 100}%`,
      height: `${place.h * 100}%`,
      zIndex: Number(beat.layer ?? 0) + 1,
      '--mark': markOf(beat.kind).colour,
    }"
  >
    <StageFrame v-if="beat.kind === 'burst' || beat.kind === 'bar'" :beat="beat" :media="media" />
    <img
      v-else-if="showsFace(beat)"
      :src="'/faces/viewer'"
      alt=""
      draggable="false"
      :style="{ objectFit: 'cover', borderRadius: beat.corner ? `${Number(beat.corner) * 50}%` : '' }"
    />
    <img
      v-else-if="media?.poster && beat.kind !== 'caption'"
      :src="media.kind === 'picture' && media.url ? media.url : media.poster"
      alt=""
      draggable="false"
      :style="{
        opacity: Number(beat.opacity ?? 1),
        transform: beat.flip ? 'scaleX(-1)' : '',
        borderRadius: beat.corner ? `${Number(beat.corner) * 50}%` : '',
      }"
    />
    <span
      v-else-if="beat.kind === 'caption'"
      class="caption"
      :style="{
        fontSize: `${Number(beat.size ?? 0.06) * 100}cqh`,
        color: String(beat.colour ?? '#f4eedd'),
        background: beat.plate === undefined ? '#121d1b' : String(beat.plate ?? 'none'),
        fontFamily: beat.face === 'text' ? 'var(--text)' : 'var(--display)',
        justifySelf: { left: 'start', right: 'end' }[String(beat.align)] ?? 'center',
      }"
      >{{ text }}</span
    >
    <OutputMark v-else-if="!hasMedia" :of="beat.kind" :size="44" />
    <span v-else class="lost small">{{ media ? media.name : fromJar ? 'empty jar' : 'file missing' }}</span>
    <span class="name small"
      ><OutputMark :of="beat.kind" :size="13" />{{ beat.id }}{{ fromJar ? ' (from a jar)' : '' }}</span
    >
  </div>
</template>

<style scoped>
.item {
  position: absolute;
  outline: 1px dashed var(--mark);
  cursor: move;
  display: grid;
  place-items: center;
  user-select: none;
  touch-action: none;
}

.chosen {
  outline: 2px solid var(--marmalade);
}

.covered > :not(.name) {
  visibility: hidden;
}

img {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: contain;
  pointer-events: none;
}

.caption {
  font-weight: 650;
  padding: 0.25em 0.6em;
  max-height: 100%;
  overflow: hidden;
}

.name {
  position: absolute;
  left: 0;
  top: 0;
  display: none;
  gap: 4px;
  align-items: center;
  padding: 1px 6px;
  background: var(--ground);
  color: var(--ink);
  white-space: nowrap;
}

.item:hover .name,
.chosen .name {
  display: flex;
}

.lost {
  color: var(--berry);
}
</style>
