<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useBook } from '@/composables/useBook'
import { bringIn, isBundle } from '@/composables/useReview'
import { attempt } from '@/composables/useSay'
import { useSnags } from '@/composables/useSnags'
import DropZone from '@/parts/DropZone.vue'
import CueRow from './CueRow.vue'
import ManyBar from './ManyBar.vue'

const book = useBook()
const router = useRouter()
const wanted = ref('')
const tag = ref('')
const busy = ref(false)
const picked = ref<string[]>([])
const { ofCue } = useSnags()
const snagged = computed(() => [...ofCue.value.values()].reduce((sum, some) => sum + some.length, 0))
const zone = ref<InstanceType<typeof DropZone>>()

const tags = computed(() => [...new Set((book.book?.cues ?? []).flatMap((cue) => cue.tags))].sort())
const cues = computed(() =>
  (book.book?.cues ?? []).filter(
    (cue) =>
      (!tag.value || cue.tags.includes(tag.value)) &&
      cue.name.toLowerCase().includes(wanted.value.trim().toLowerCase()),
  ),
)

function pick(id: string, on: boolean): void {
  picked.value = on ? [...picked.value, id] : picked.value.filter((one) => one !== id)
}

async function fromFiles(files: File[], oneOfThem = false): Promise<void> {
  busy.value = true
  await attempt(async () => {
    const bundle = files.find(isBundle)
    if (bundle) return router.push(await bringIn(bundle))
    const ids = await book.addFiles(files)
    if (!ids.length) return
    const cue = await book.newCue(ids, oneOfThem)
    await router.push(`/cues/${cue.id}`)
  })
  busy.value = false
}

async function empty(): Promise<void> {
  await attempt(async () => router.push(`/cues/${(await book.newCue([])).id}`))
}
</script>

<template>
  <div class="cues">
    <div class="head row">
      <h1>Cues</h1>
      <input v-model="wanted" class="well search" placeholder="Find a cue" aria-label="Find a cue" />
      <button
        v-for="name in tags"
        :key="name"
        class="btn tiny"
        :class="{ main: tag === name }"
        @click="tag = tag === name ? '' : name"
      >
        {{ name }}
      </button>
      <span class="grow"></span>
      <RouterLink class="btn" to="/snags"
        >Snags<span v-if="snagged" class="count">{{ snagged }}</span></RouterLink
      >
      <button class="btn" @click="empty">Empty cue</button>
    </div>
    <div class="begin">
      <DropZone ref="zone" class="new" :busy="busy" bundles @files="(files) => fromFiles(files)">
        <div class="row">
          <button class="btn main" data-test="new-cue" :disabled="busy" @click="zone?.pick()">
            {{ busy ? 'Reading…' : 'New cue' }}
          </button>
          <span class="soft"
            >Drop a picture, clip, sound or shared cue here. It works right away; then connect it to a
            reward.</span
          >
        </div>
      </DropZone>
      <DropZone
        class="random"
        :busy="busy"
        label="Drop several files: one is picked each time"
        @files="(files) => fromFiles(files, true)"
      />
    </div>
    <ManyBar v-model="picked" :all="cues.map((cue) => cue.id)" />
    <ul v-if="cues.length" class="list">
      <CueRow
        v-for="cue in cues"
        :key="cue.id"
        :cue="cue"
        :snags="ofCue.get(cue.id) ?? []"
        :model-value="picked.includes(cue.id)"
        @update:model-value="pick(cue.id, $event)"
      />
    </ul>
    <p v-else-if="book.book?.cues.length" class="soft">No matching cues.</p>
    <div v-else class="empty">
      <p>
        A cue is something that viewers can trigger: who can call it, when, and what happens.<br />Drop a file
        above to begin.
      </p>
    </div>
  </div>
</template>

<style scoped>
.count {
  padding: 0 7px;
  border-radius: 10px;
  background: var(--marmalade);
  color: var(--on-marmalade);
  font-weight: 700;
}

.cues {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  max-width: 1180px;
  margin: 0 auto;
}

.search {
  width: 220px;
}

.begin {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 12px;
}

.new {
  justify-items: start;
  padding: 14px 16px;
}

.list {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
}

@media (max-width: 760px) {
  .begin {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
