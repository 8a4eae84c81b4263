<script setup lang="ts">
/** The ways of a book out and in: as one file, brought in from one, and the copies of the days. */
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
    <section class="card" aria-label="Carry it away">
      <div class="card-title"><h2>Carry it away</h2></div>
      <p class="soft small">
        The whole book with its files. Passwords, tokens and links stay here<template v-if="stays.length"
          >, and so do {{ stays.join(', ') }}</template
        >.
      </p>
      <a class="btn" href="/api/carry/book.zip" download data-test="carry">The book as one file</a>
      <p class="soft small more">
        Moving to another computer? Take the ledger, nights, viewers and points too.
      </p>
      <a class="btn" href="/api/carry/everything.zip" download data-test="carry-all"
        >Everything as one file</a
      >
    </section>
    <DropZone class="in" accept=".zip,.json" :busy="busy" @files="bring">
      <template #default>
        <h2>Bring in</h2>
        <p class="soft small">
          Drop a book, or cues that somebody handed on. You see what would come of it before anything does.
        </p>
        <label class="btn pick">
          {{ busy ? 'Reading…' : 'Choose a file' }}
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
    <section class="card" aria-label="Copies of the data">
      <div class="card-title"><h2>A copy a day</h2></div>
      <p class="soft small">
        Everything but the files, ledger too; fourteen are kept.
        <template v-if="copies[0]">The last is of {{ copies[0].day }}.</template>
        To go back to one, end Cue Jar and run
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
