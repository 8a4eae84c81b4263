<script setup lang="ts">
/** A file that was brought in: what it would do, before anything is done. */
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
  cues: 'cues that were handed on',
  book: 'a whole book',
  all: 'everything of another computer',
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
    say(`${done.what}. Ctrl+Z takes it back.`, 'fine')
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
      <h1>{{ review ? review.name : 'A file that was brought in' }}</h1>
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
          Tick all
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
          Tick none
        </button>
      </template>
      <button class="btn" data-test="leave" @click="leave">Leave it</button>
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
        <p v-else class="empty">All of it is here already, just so.</p>
      </div>
      <aside>
        <ReviewData v-if="review.data?.length" :data="review.data" @take="takePart" />
        <ReviewAsked v-if="review.asked.length" :asked="review.asked" @allow="allow" />
        <ReviewNames v-if="review.names.length" :names="review.names" @call="call" />
        <section class="card facts" aria-label="What else">
          <p v-if="review.off.length" data-test="off">
            Comes in switched off: <strong>{{ review.off.join(', ') }}</strong>
          </p>
          <p v-if="review.used.length">Yours are used: {{ review.used.join(', ') }}</p>
          <p v-if="review.missing.length" class="wrong">
            Comes without its content: {{ review.missing.join(', ') }}
          </p>
          <p v-if="review.kept.length">Stays, as it is used: {{ review.kept.join(', ') }}</p>
          <p v-if="review.stays.length" class="soft" data-test="stays">
            Never imported, stays as it is here: {{ review.stays.join(', ') }}
          </p>
          <p v-if="review.left_out.length" class="soft">
            Stayed where it came from: {{ review.left_out.join(', ') }}
          </p>
          <p v-for="credit in review.credits" :key="credit" class="small soft">{{ credit }}</p>
          <p class="soft">Nothing is changed yet. One undo takes all of it back.</p>
        </section>
      </aside>
    </div>
    <p v-else-if="!busy" class="empty">
      That file does not wait here any more.
      <RouterLink class="btn" to="/books">To the books</RouterLink>
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
