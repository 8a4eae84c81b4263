<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { sayDuration } from '@/logic/duration'
import DropZone from '@/parts/DropZone.vue'
import JobList from '@/parts/JobList.vue'
import OutputMark from '@/parts/OutputMark.vue'
import WaveForm from '@/parts/WaveForm.vue'
import MediaDrawer from './MediaDrawer.vue'
import PastePaths from './PastePaths.vue'

const book = useBook()
const route = useRoute()
const busy = ref(false)
const wanted = ref('')
const kind = ref('')
const open = ref('')
const pasting = ref(false)
const folder = ref<HTMLInputElement>()

const KINDS = [
  { id: 'picture', name: 'Pictures' },
  { id: 'clip', name: 'Clips' },
  { id: 'sound', name: 'Sounds' },
]
const shown = computed(() =>
  book.media.filter(
    (m) =>
      (!kind.value || m.kind === kind.value) &&
      m.name.toLowerCase().includes(wanted.value.trim().toLowerCase()),
  ),
)
const chosen = computed(() => book.mediaById.get(open.value) ?? null)
watch(
  () => route.query.open,
  (id) => (open.value = String(id ?? '')),
  { immediate: true },
)

async function take(files: File[]): Promise<void> {
  busy.value = true
  await attempt(() => book.addFiles(files))
  busy.value = false
}
</script>

<template>
  <div class="media">
    <div class="row">
      <h1>Media</h1>
      <input v-model="wanted" class="well search" placeholder="Find a file" aria-label="Find a file" />
      <button
        v-for="k in KINDS"
        :key="k.id"
        class="btn tiny"
        :class="{ main: kind === k.id }"
        @click="kind = kind === k.id ? '' : k.id"
      >
        {{ k.name }}
      </button>
      <span class="grow"></span>
      <button class="btn tiny" @click="folder?.click()">Add a folder</button>
      <button class="btn tiny" data-test="paste-paths" @click="pasting = true">Paste paths</button>
      <input
        ref="folder"
        type="file"
        webkitdirectory
        hidden
        @change="(take([...(folder?.files ?? [])]), folder && (folder.value = ''))"
      />
    </div>
    <JobList />
    <PastePaths v-model="pasting" />
    <DropZone
      :busy="busy"
      label="Drop pictures, clips, sounds or a folder here, or choose files"
      @files="take"
    />
    <ul v-if="shown.length" class="wall">
      <li v-for="entry in shown" :key="entry.id">
        <button class="tile" :data-media="entry.id" @click="open = entry.id">
          <span class="poster">
            <img v-if="entry.poster" :src="entry.poster" alt="" loading="lazy" />
            <WaveForm v-else-if="entry.wave.length" :wave="entry.wave" class="wave" />
            <OutputMark v-else :of="entry.kind || 'picture'" :size="34" />
          </span>
          <span class="row words">
            <OutputMark :of="entry.kind || 'picture'" :size="15" />
            <span class="grow cut-off">{{ entry.name }}</span>
            <span v-if="entry.flashes.length" class="warn" title="Unsafe flashing">▲</span>
            <span v-if="entry.plays === 'nowhere'" class="wrong" title="Browsers can’t play it: convert it"
              >✕</span
            >
            <span class="soft small">{{
              entry.missing ? 'missing' : entry.length_s ? sayDuration(entry.trimmed_s) : 'still'
            }}</span>
          </span>
        </button>
      </li>
    </ul>
    <div v-else-if="!book.media.length" class="empty">
      <p>Pictures, clips and sounds that your cues use live here.<br />Drop some above to begin.</p>
    </div>
    <p v-else class="soft">No matching files.</p>
    <MediaDrawer :entry="chosen" @close="open = ''" />
  </div>
</template>

<style scoped>
.media {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  max-width: 1240px;
  margin: 0 auto;
}

.search {
  width: 220px;
}

.wall {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
  gap: 10px;
}

.tile {
  display: grid;
  gap: 6px;
  width: 100%;
  padding: 8px;
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: var(--corner);
  cursor: pointer;
  text-align: left;
}

.tile:hover {
  border-color: var(--marmalade);
}

.poster {
  display: grid;
  place-items: center;
  height: 130px;
  background: var(--ground);
  border-radius: 6px;
  overflow: hidden;
}

.poster img {
  max-width: 100%;
  max-height: 130px;
}

.wave {
  height: 80px;
}

.words {
  min-width: 0;
}

.warn {
  color: var(--marmalade);
}

.wrong {
  color: var(--berry);
}
</style>
