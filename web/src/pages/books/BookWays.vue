<script setup lang="ts">
/** Export, import, and the daily copies. */
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
import { bringIn } from '@/composables/useReview'
import { attempt } from '@/composables/useSay'
import DropZone from '@/parts/DropZone.vue'

defineProps<{ copies: Schemas['CopyOut'][]; stays: string[] }>()
const router = useRouter()
const busy = ref(false)

async function bring(files: File[]): Promise<void> {
  busy.value = true
  const file = files[0]
  if (file) await attempt(async () => router.push(await bringIn(file)))
  busy.value = false
}
</script>

<template>
  <div class="ways">
    <section class="card" aria-label="Export">
      <div class="card-title"><h2>Export</h2></div>
      <p class="soft small">
        The book with its files. Passwords, tokens and links stay on this computer<template
          v-if="stays.length"
          >, and so do {{ stays.join(', ') }}</template
        >.
      </p>
      <a class="btn" href="/api/carry/book.zip" download data-test="carry">Export the book</a>
      <p class="soft small more">
        Moving to another computer? This adds the ledger, nights, viewers and points.
      </p>
      <a class="btn" href="/api/carry/everything.zip" download data-test="carry-all">Export everything</a>
    </section>
    <DropZone class="in" accept=".zip,.json" :busy="busy" @files="bring">
      <template #default>
        <h2>Import</h2>
        <p class="soft small">
          Drop a book, or cues that somebody shared. You see every change before it happens.
        </p>
        <label class="btn pick">
          {{ busy ? 'Reading…' : 'Choose a file…' }}
          <input
            type="file"
            class="unseen"
            accept=".zip,.json"
            data-test="bring"
            @change="bring([...(($event.target as HTMLInputElement).files ?? [])])"
          />
        </label>
      </template>
    </DropZone>
    <section class="card" aria-label="Daily copies">
      <div class="card-title"><h2>Daily copies</h2></div>
      <p class="soft small">
        Everything but the files, for the last 14 days.
        <template v-if="copies[0]">The latest is from {{ copies[0].day }}.</template>
        To restore one, quit Cue Jar and run
      </p>
      <code>cuejar restore{{ copies[0] ? ` ${copies[0].day}` : '' }}</code>
    </section>
  </div>
</template>

<style scoped>
.ways {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 14px;
}

.ways p {
  margin: 0 0 10px;
}

.ways .more {
  margin-top: 14px;
}

.in {
  place-items: start;
  align-content: start;
  padding: 12px 16px;
}

.in h2 {
  margin-bottom: 8px;
}

code {
  padding: 4px 10px;
  border-radius: 6px;
  background: var(--ground);
  font-size: 14px;
  user-select: all;
}

@media (max-width: 900px) {
  .ways {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
