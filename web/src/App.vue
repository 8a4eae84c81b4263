<script setup lang="ts">
import { isTyping } from '@/logic/keys'
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useBook } from './composables/useBook'
import { useEscape } from './composables/useEscape'
import { useRest } from './composables/useRest'
import { attempt } from './composables/useSay'
import JobList from './parts/JobList.vue'
import FootStrip from './parts/FootStrip.vue'
import RoomTabs from './parts/RoomTabs.vue'
import SearchBox from './parts/SearchBox.vue'
import HelpDrawer from './parts/HelpDrawer.vue'
import TopBar from './parts/TopBar.vue'
import TroubleBar from './parts/TroubleBar.vue'
import ViewerCard from './parts/viewers/ViewerCard.vue'
import { PAGES } from './labels'

const book = useBook()
const router = useRouter()
const help = ref(false)
const searching = ref(false)

function onKey(event: KeyboardEvent): void {
  if (event.key === 'Escape' && event.shiftKey) {
    event.preventDefault()
    void useRest().rest(false)
    return
  }
  if (isTyping(event)) return
  const control = event.ctrlKey || event.metaKey
  if (control && event.key.toLowerCase() === 'z') {
    event.preventDefault()
    void attempt(() => book.step(!event.shiftKey))
  } else if (control && event.key.toLowerCase() === 'y') {
    event.preventDefault()
    void attempt(() => book.step(false))
  } else if (control || event.altKey) return
  else if (event.key === '?') help.value = !help.value
  else if (event.key === '/') {
    event.preventDefault()
    searching.value = true
  } else if (/^[0-9]$/.test(event.key)) {
    // The tenth is at 0.
    const page = PAGES[(Number(event.key) + 9) % 10]
    if (page) void router.push(page.path)
  }
}

useEventListener(window, 'keydown', onKey)

useEscape()

/** A file dropped outside a drop zone never replaces the page. */
for (const kind of ['dragover', 'drop'] as const)
  useEventListener(window, kind, (event: DragEvent) => {
    if (event.dataTransfer?.types.includes('Files')) event.preventDefault()
  })
void attempt(book.load)
</script>

<template>
  <div class="frame">
    <div>
      <TopBar @search="searching = true" @help="help = true" />
      <TroubleBar />
      <RoomTabs />
      <JobList class="jobs" :of="['importing', 'exporting']" />
    </div>
    <main class="page">
      <RouterView v-if="book.book" />
    </main>
    <FootStrip />
    <HelpDrawer v-model="help" />
    <SearchBox v-model="searching" />
    <ViewerCard />
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template: auto minmax(0, 1fr) auto / minmax(0, 1fr);
  height: 100%;
}

.jobs {
  padding: 6px 20px;
}

.page {
  min-height: 0;
  overflow: auto;
  padding: 16px 20px;
}

@media (max-width: 600px) {
  .page {
    padding: 10px 8px;
  }
}
</style>
