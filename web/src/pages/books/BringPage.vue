<script setup lang="ts">
/** The review of an import: what it would change, before anything is changed. */
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useReview } from '@/composables/useReview'
import { attempt, say } from '@/composables/useSay'
import JobList from '@/parts/JobList.vue'
import ReviewAsked from './ReviewAsked.vue'
import ReviewData from './ReviewData.vue'
import ReviewNames from './ReviewNames.vue'
import ReviewRows from './ReviewRows.vue'

const props = defineProps<{ id: string }>()
const book = useBook()
const router = useRouter()
const params = { path: { key: props.id } }
const { review, choices, busy, takes, parts, begin, look, tick, aside, allow, call, takePart } = useReview(
  (body) => got(api.POST('/api/carry/in/{key}/review', { params, body })),
)
const SCOPES = {
  cues: 'shared cues',
  book: 'a whole book',
  all: 'everything from another computer',
}
const taking = ref(false)
const gone = ref('')
const rows = computed(() => review.value?.rows ?? [])
const home = computed(() => (review.value?.scope === 'cues' ? '/cues' : '/books'))
begin()

async function take(): Promise<void> {
  taking.value = true
  await attempt(async () => {
    const body = { ...choices.value, version: review.value?.version ?? null }
    const done = await book
      .edit(() => got(api.POST('/api/carry/in/{key}/take', { params, body })))
      .catch(async (error: unknown) => {
        await look().catch(() => undefined)
        throw error
      })
    say(`${done.what}. Ctrl+Z undoes it.`, 'fine')
    gone.value = 'taken'
    await router.push(home.value)
  })
  taking.value = false
}

async function leave(): Promise<void> {
  await attempt(() => got(api.DELETE('/api/carry/in/{key}', { params })))
  await router.push(home.value)
}
</script>

<template>
  <div class="bring">
    <div class="row head">
      <h1>{{ review ? review.name : 'Import' }}</h1>
      <span v-if="review" class="soft">{{ SCOPES[review.scope] }}</span>
      <span class="grow"></span>
      <template v-if="rows.length">
        <button
          class="btn tiny"
          data-test="tick-all"
          @click="
            tick(
              rows.map((row) => row.key),
              true,
            )
          "
        >
          Select all
        </button>
        <button
          class="btn tiny"
          @click="
            tick(
              rows.filter((row) => row.takes).map((row) => row.key),
              false,
            )
          "
        >
          Select none
        </button>
      </template>
      <button class="btn" data-test="leave" @click="leave">Cancel</button>
      <button
        class="btn main"
        data-test="take"
        :disabled="!(takes + parts) || taking || Boolean(review?.problems.length)"
        @click="take"
      >
        {{ taking ? 'Importing…' : takes + parts ? `Import ${takes + parts}` : 'Nothing to import' }}
      </button>
    </div>
    <JobList v-if="taking" />
    <div v-if="review" class="both" :aria-busy="busy">
      <div class="rows">
        <p v-for="problem in review.problems" :key="problem.path + problem.what" class="wrong" role="alert">
          {{ problem.path }} {{ problem.what }}
        </p>
        <ReviewRows v-if="rows.length" :rows="rows" apart @tick="tick" @aside="aside" />
        <p v-else class="empty">Everything in it is already here.</p>
      </div>
      <aside>
        <ReviewData v-if="review.data?.length" :data="review.data" @take="takePart" />
        <ReviewAsked v-if="review.asked.length" :asked="review.asked" @allow="allow" />
        <ReviewNames v-if="review.names.length" :names="review.names" @call="call" />
        <section class="card facts" aria-label="Notes">
          <p v-if="review.off.length" data-test="off">
            Imported switched off: <strong>{{ review.off.join(', ') }}</strong>
          </p>
          <p v-if="review.used.length">Yours are used instead: {{ review.used.join(', ') }}</p>
          <p v-if="review.missing.length" class="wrong">
            Files missing from it: {{ review.missing.join(', ') }}
          </p>
          <p v-if="review.kept.length">Stays, because it is in use: {{ review.kept.join(', ') }}</p>
          <p v-if="review.stays.length" class="soft" data-test="stays">
            Never imported: {{ review.stays.join(', ') }}
          </p>
          <p v-if="review.left_out.length" class="soft">
            Left out when it was exported: {{ review.left_out.join(', ') }}
          </p>
          <p v-for="credit in review.credits" :key="credit" class="small soft">{{ credit }}</p>
          <p class="soft">Nothing has changed yet. One undo reverts the whole import of the book.</p>
        </section>
      </aside>
    </div>
    <p v-else-if="!busy" class="empty">
      That file is no longer waiting here.
      <RouterLink class="btn" to="/books">Open History</RouterLink>
    </p>
  </div>
</template>

<style scoped>
.bring {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 14px;
  max-width: 1240px;
  margin: 0 auto;
}

.head {
  position: sticky;
  top: -16px;
  z-index: 5;
  padding: 8px 0;
  background: var(--ground);
}

.both {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 380px;
  gap: 18px;
  align-items: start;
}

.rows,
aside {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 14px;
}

.facts p {
  margin: 0 0 6px;
  overflow-wrap: anywhere;
}

.wrong {
  color: var(--berry);
}

@media (max-width: 900px) {
  .both {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
