<script setup lang="ts">
/** The demo, on its first evening: where to be a viewer, where the overlay is, what to try. One press removes it for good. */
import { Close } from '@element-plus/icons-vue'
import { useLocalStorage } from '@vueuse/core'
import { computed, onMounted, ref } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useOverlayLink } from '@/composables/useOverlayLink'
import { attempt } from '@/composables/useSay'

const gone = useLocalStorage('cue-jar-demo-seen', false, { onError: () => {} })
const book = useBook()
const audience = ref('')
const overlay = computed(() => book.book?.overlays.find((one) => !one.private)?.id ?? '')
const { copy } = useOverlayLink(() => overlay.value)

onMounted(() =>
  attempt(async () => {
    if (gone.value) return
    const told = await got(api.GET('/api/simulated'))
    audience.value = told.demo ? (told.address ?? '') : ''
  }),
)
</script>

<template>
  <aside v-if="audience && !gone" class="card demo" data-test="demo-card">
    <strong class="title">This is the demo.</strong>
    <ol>
      <li>
        Be a viewer on the
        <a :href="audience" target="_blank" rel="noreferrer">audience page</a>.
      </li>
      <li>
        Open the overlay beside it:
        <button class="btn tiny" @click="attempt(copy)">Copy its link</button>
      </li>
      <li>Redeem <em>Steam whistle</em> there, and see it here.</li>
    </ol>
    <button class="btn bare" aria-label="Dismiss this card" title="Dismiss" @click="gone = true">
      <Close class="icon" />
    </button>
  </aside>
</template>

<style scoped>
.demo {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: 16px;
  padding-block: 6px;
}

.title {
  font: 680 17px var(--display);
  white-space: nowrap;
}

ol {
  display: flex;
  flex-wrap: wrap;
  flex: 1;
  gap: 4px 32px;
  margin: 0;
  padding-left: 18px;
}

.icon {
  width: 16px;
  height: 16px;
}

@media (max-width: 700px) {
  .demo {
    flex-wrap: wrap;
    gap: 4px 10px;
  }

  ol {
    flex-basis: 100%;
    order: 1;
  }
}
</style>
