<script setup lang="ts">
/** Files of this computer, by a pasted list of their paths. */
import { ElDialog } from 'element-plus'
import { ref } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'

const open = defineModel<boolean>({ required: true })
const book = useBook()
const text = ref('')
const EXAMPLE = '"/home/you/sounds/bell.ogg"'
const busy = ref(false)
const lost = ref<Schemas['TurnedAwayFile'][]>([])

async function take(): Promise<void> {
  busy.value = true
  await attempt(async () => {
    const answer = await book.edit(() => got(api.POST('/api/media/paths', { body: { text: text.value } })))
    lost.value = answer.refused
    const count = answer.media.length
    if (count) say(`${count} ${count === 1 ? 'file is' : 'files are'} in the library.`, 'fine')
    if (!lost.value.length) {
      open.value = false
      text.value = ''
    } else text.value = lost.value.map((row) => row.name).join('\n')
  })
  busy.value = false
}
</script>

<template>
  <ElDialog append-to="#over" v-model="open" title="Paste paths" width="620">
    <form class="paste" @submit.prevent="take">
      <p class="soft small">One file or folder per line. Quotes are removed; a folder adds all its files.</p>
      <textarea
        v-model="text"
        class="well"
        rows="7"
        :placeholder="EXAMPLE"
        aria-label="Paths, one per line"
      ></textarea>
      <ul v-if="lost.length" class="lost small">
        <li v-for="row in lost" :key="row.name">
          <code>{{ row.name }}</code><br />{{ row.what }}
        </li>
      </ul>
      <div class="row">
        <span class="grow"></span>
        <button type="button" class="btn" @click="open = false">Close</button>
        <button class="btn main" :disabled="busy || !text.trim()">
          {{ busy ? 'Reading…' : 'Add' }}
        </button>
      </div>
    </form>
  </ElDialog>
</template>

<style scoped>
.paste {
  display: grid;
  gap: 10px;
}

.lost {
  margin: 0;
  padding-left: 18px;
  color: var(--berry);
  max-height: 180px;
  overflow: auto;
}
</style>
