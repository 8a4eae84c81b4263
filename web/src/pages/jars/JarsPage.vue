<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { idOf } from '@/logic/ids'
import { freshJar } from '@/logic/jars'
import JarBench from './JarBench.vue'
import JarCrowd from './JarCrowd.vue'
import JarPicture from './JarPicture.vue'
import ViewersBench from './ViewersBench.vue'

const book = useBook()
const chosen = ref('')
const jars = computed(() => book.book?.jars ?? [])
const jar = computed(() => jars.value.find((j) => j.id === chosen.value) ?? null)
watch(jars, (all) => !all.some((j) => j.id === chosen.value) && (chosen.value = all[0]?.id ?? ''), {
  immediate: true,
})

async function newJar(kind: 'media' | 'text' | 'colour' | 'viewers'): Promise<void> {
  const name = { media: 'New jar', text: 'New words', colour: 'New colours', viewers: 'New viewers' }[kind]
  const id = idOf(
    name,
    jars.value.map((j) => j.id),
  )
  await attempt(() => book.put('jars', freshJar(id, name, kind)))
  chosen.value = id
}
</script>

<template>
  <div class="jars">
    <div class="row">
      <h1>Jars</h1>
      <span class="soft">A cue draws from a jar: another poster, line, colour or viewer each time.</span>
      <span class="grow"></span>
      <button class="btn main" data-test="new-media" @click="newJar('media')">New jar</button>
      <button class="btn" @click="newJar('text')">of words</button>
      <button class="btn" data-test="new-colour" @click="newJar('colour')">of colours</button>
      <button class="btn" data-test="new-viewers" @click="newJar('viewers')">of viewers</button>
    </div>
    <div v-if="jars.length" class="shelf" role="tablist">
      <button
        v-for="j in jars"
        :key="j.id"
        class="on-shelf"
        role="tab"
        :aria-selected="j.id === chosen"
        :class="{ on: j.id === chosen }"
        @click="chosen = j.id"
      >
        <JarCrowd v-if="j.kind === 'viewers'" :small="true" />
        <JarPicture v-else :entries="j.entries" :small="true" />
        <strong class="cut-off">{{ j.name || j.id }}</strong>
      </button>
    </div>
    <div v-else class="empty">
      <p>
        A jar is a pool that a cue draws from.<br />Make one, drop files into it, and choose it for a picture,
        a sound or a caption.
      </p>
    </div>
    <ViewersBench v-if="jar?.kind === 'viewers'" :key="jar.id" :jar="jar" />
    <JarBench v-else-if="jar" :key="jar.id" :jar="jar" />
  </div>
</template>

<style scoped>
.jars {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 14px;
  max-width: 1240px;
  margin: 0 auto;
}

.shelf {
  display: flex;
  gap: 6px;
  border-bottom: 6px solid var(--line);
  overflow-x: auto;
}

.on-shelf {
  display: grid;
  justify-items: center;
  gap: 2px;
  width: 110px;
  padding: 6px 4px;
  background: none;
  border: 0;
  border-radius: 8px 8px 0 0;
  cursor: pointer;
  color: var(--soft);
}

.on-shelf strong {
  max-width: 100%;
}

.on-shelf.on {
  background: var(--raised);
  color: var(--ink);
}
</style>
