<script setup lang="ts">
/** A wall of files to choose from: found by name, by tag, by recent use; heard by pointing at one, or with P. */
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { Media } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { usePreview } from '@/composables/usePreview'
import { sayDuration } from '@/logic/duration'
import { filesByTag, found, RECENT, usedNow } from '@/logic/finding'
import OutputMark from './OutputMark.vue'
import WaveForm from './WaveForm.vue'

const props = defineProps<{ media: readonly Media[] }>()
const emit = defineEmits<{ pick: [entry: Media] }>()

/** How many are drawn at first, and again on scrolling to the last. */
const A_TIME = 20
const FEW = 9
const book = useBook()
const { playing, point, toggle, stop } = usePreview()
const recent = useLocalStorage<string[]>('media-recent', [])
const words = ref('')
const tag = ref('')
const drawn = ref(A_TIME)

const byTag = computed(() => filesByTag(book.book?.cues ?? [], book.book?.jars ?? []))
const ids = computed(() => new Set(props.media.map((entry) => entry.id)))
const tags = computed(() => [
  ...(recent.value.some((id) => ids.value.has(id)) ? [RECENT] : []),
  ...[...byTag.value].flatMap(([name, files]) => ([...files].some((id) => ids.value.has(id)) ? [name] : [])),
])
const all = computed(() => found(props.media, words.value, tag.value, byTag.value, recent.value))
const shown = computed(() => all.value.slice(0, drawn.value))
watch([words, tag], () => (drawn.value = A_TIME))

function onScroll(event: Event): void {
  const wall = event.target as HTMLElement
  if (wall.scrollTop + wall.clientHeight > wall.scrollHeight - 80) drawn.value += A_TIME
}

function pick(entry: Media): void {
  stop()
  recent.value = usedNow(recent.value, entry.id)
  emit('pick', entry)
}
</script>

<template>
  <div class="picker">
    <template v-if="media.length > FEW">
      <input v-model="words" class="well" placeholder="Find a file" aria-label="Find a file" />
      <div v-if="tags.length" class="tags" role="group" aria-label="Filter files">
        <button
          v-for="name in tags"
          :key="name"
          class="btn tiny"
          :aria-pressed="tag === name"
          :class="{ main: tag === name }"
          @click="tag = tag === name ? '' : name"
        >
          {{ name }}
        </button>
      </div>
    </template>
    <div class="wall" @scroll.passive="onScroll">
      <button
        v-for="entry in shown"
        :key="entry.id"
        class="tile"
        :class="{ playing: playing === entry.id }"
        :title="`${entry.name}${entry.length_s ? ', P plays it' : ''}`"
        @mouseenter="point(entry)"
        @mouseleave="stop"
        @blur="stop"
        @keydown.p.prevent="toggle(entry)"
        @click="pick(entry)"
      >
        <img v-if="entry.poster" :src="entry.poster" alt="" loading="lazy" />
        <WaveForm v-else-if="entry.wave.length" class="wave" :wave="entry.wave" />
        <OutputMark v-else :of="entry.kind || 'picture'" :size="26" />
        <span class="small cut-off">{{ entry.name }}</span>
        <span v-if="entry.length_s" class="small soft">{{ sayDuration(entry.trimmed_s) }}</span>
      </button>
    </div>
    <p v-if="!media.length" class="soft small">No files yet.</p>
    <p v-else-if="!all.length" class="soft small">No matching files.</p>
  </div>
</template>

<style scoped>
.picker {
  display: grid;
  gap: 8px;
}

.tags {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}

.wall {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 6px;
  max-height: 300px;
  overflow: auto;
}

.tile {
  display: grid;
  justify-items: center;
  align-content: start;
  gap: 2px;
  min-width: 0;
  padding: 6px;
  background: var(--ground);
  border: 1px solid var(--line);
  border-radius: 8px;
  cursor: pointer;
}

.tile.playing {
  border-color: var(--mint);
}

.tile img,
.wave {
  width: 100%;
  height: 56px;
  object-fit: contain;
}

.tile span {
  max-width: 100%;
}

p {
  margin: 0;
}
</style>
