<script setup lang="ts">
/** How the chosen beat sounds: volume, fades, its effect on other sounds, the part of its file that plays. */
import type { BeatFields } from '@/api/client'
import { ElSlider } from 'element-plus'
import { computed, defineAsyncComponent } from 'vue'
import { useBook } from '@/composables/useBook'
import { say } from '@/composables/useSay'
import { sayDuration } from '@/logic/duration'
import { pictureToSound, soundToPicture } from '@/logic/fit'
import VolumeField from '@/parts/VolumeField.vue'
import BeatFades from './BeatFades.vue'
import { useDraft } from '../draft'
import { fileOf } from '@/logic/beats'

const TrimEditor = defineAsyncComponent(() => import('@/parts/TrimEditor.vue'))

const book = useBook()
const draft = useDraft()
const beat = draft.chosenBeat
const file = computed(() => fileOf(beat.value))
const media = computed(() => book.mediaById.get(file.value ?? ''))
const elsewhere = computed(() =>
  (media.value?.used_by ?? []).filter((name) => name !== draft.cue.value?.name),
)
const isSound = computed(() => beat.value?.kind === 'sound' || beat.value?.kind === 'speech')
const heard = computed(() => {
  const shares = [beat.value?.volume ?? 100, draft.cue.value?.volume ?? 100, book.book?.house.volume ?? 100]
  return Math.round(shares.reduce<number>((all, share) => (all * Number(share)) / 100, 100))
})
const quiet = computed(() => Math.round((1 - Number(beat.value?.duck ?? 1)) * 100))
const toPicture = computed(() =>
  beat.value ? soundToPicture(beat.value, draft.beats.value, draft.spans.value) : null,
)
const toSound = computed(() =>
  beat.value ? pictureToSound(beat.value, draft.beats.value, draft.spans.value) : null,
)

function set(fields: BeatFields): void {
  if (beat.value) draft.change(beat.value.id, fields)
}

function fitSound(): void {
  if (!toPicture.value) return
  const { s } = toPicture.value.length
  set(toPicture.value)
  say(`The sound ends with the picture, after ${sayDuration(s)}.`, 'fine')
}

function fitPicture(): void {
  if (!toSound.value) return
  draft.change(toSound.value.id, { length: toSound.value.length })
  say(`${toSound.value.id} lasts as long as the sound.`, 'fine')
}
</script>

<template>
  <div v-if="beat" class="sound">
    <VolumeField
      name="Volume"
      :model-value="Number(beat.volume ?? 100)"
      @update:model-value="set({ volume: $event })"
    />
    <VolumeField
      v-if="draft.cue.value"
      name="Cue volume"
      data-test="cue-volume"
      :model-value="draft.cue.value.volume ?? 100"
      @update:model-value="draft.cue.value.volume = $event"
    />
    <p class="soft small all">Heard at {{ heard }} % including cue and master volume.</p>
    <label class="field">
      Other sounds {{ quiet ? `${quiet} % quieter` : 'unchanged' }}
      <ElSlider
        :model-value="quiet"
        :step="5"
        @update:model-value="set({ duck: Math.round(100 - Number($event)) / 100 })"
      />
    </label>
    <BeatFades v-if="isSound" back="Fade out" />
    <div v-if="beat.kind === 'sound' && (toPicture || toSound)" class="row fit">
      <button class="btn tiny" data-test="fit-sound" :disabled="!toPicture" @click="fitSound">
        Fit to the picture
      </button>
      <button class="btn tiny" data-test="fit-picture" :disabled="!toSound" @click="fitPicture">
        Fit the picture to it
      </button>
    </div>
    <template v-if="media && media.length_s && !media.missing">
      <TrimEditor :key="media.id" :entry="media" />
      <p v-if="elsewhere.length" class="small soft none">
        This trim also counts in {{ elsewhere.join(', ') }}.
      </p>
    </template>
  </div>
</template>

<style scoped>
.sound {
  display: grid;
  gap: 6px;
}

.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}

.fit {
  flex-wrap: wrap;
}

.none {
  margin: 0;
}
</style>
