<script setup lang="ts">
/** All snags of the book, by cue: fixed one by one or all safe ones, or hidden with a reason. */
import { ElSegmented } from 'element-plus'
import { computed, ref } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'
import { useSnags, type Snag } from '@/composables/useSnags'
import SnagRow from './SnagRow.vue'

const book = useBook()
const { snags, known } = useSnags()
const WHICH = ['All', 'Cannot work', 'To look at', 'Hidden'] as const
const which = ref<(typeof WHICH)[number]>('All')

const FITS: Record<(typeof WHICH)[number], (snag: Snag) => boolean> = {
  All: (snag) => snag.hidden === null,
  'Cannot work': (snag) => snag.hidden === null && snag.grade === 'error',
  'To look at': (snag) => snag.hidden === null && snag.grade !== 'error',
  Hidden: (snag) => snag.hidden !== null,
}
const options = computed(() =>
  WHICH.map((value) => ({ value, label: `${value} ${snags.value.filter(FITS[value]).length}` })),
)
/** By cue, those that can't work first. */
const groups = computed(() => {
  const shown = snags.value.filter(FITS[which.value])
  const cues = (book.book?.cues ?? []).map((cue) => ({
    cue,
    snags: shown.filter((snag) => snag.cue === cue.id),
  }))
  const errors = (group: { snags: Snag[] }): number =>
    Number(group.snags.some((snag) => snag.grade === 'error'))
  return cues.filter((group) => group.snags.length).sort((a, b) => errors(b) - errors(a))
})
const safe = computed(() => snags.value.filter((snag) => snag.hidden === null && snag.change?.safe).length)

async function mend(snag: Snag | null): Promise<void> {
  const body = snag ? { check: snag.check, cue: snag.cue, beat: snag.beat } : { cue: '', beat: '' }
  const edited = await book.edit(() => got(api.POST('/api/snags/mend', { body })))
  say(`${edited.what.replace(/^m/, 'M')} Ctrl+Z undoes it.`, 'fine')
}

async function hide(snag: Snag, reason: string | null): Promise<void> {
  const cue = book.book?.cues.find((one) => one.id === snag.cue)
  if (!cue) return
  const others = cue.hidden.filter((one) => one.check !== snag.check || one.beat !== snag.beat)
  const hidden = reason ? [...others, { check: snag.check, beat: snag.beat, reason }] : others
  await book.put('cues', { ...cue, hidden })
}
</script>

<template>
  <div class="snags-page">
    <div class="row head">
      <h1>Snags</h1>
      <ElSegmented v-model="which" :options="options" aria-label="Filter snags" />
      <span class="grow"></span>
      <button
        class="btn main"
        data-test="mend-safe"
        :disabled="!safe"
        :title="
          safe ? 'Changes nothing that you meant; one step that can be undone' : 'None can be fixed safely'
        "
        @click="attempt(() => mend(null))"
      >
        Fix all safely{{ safe ? ` (${safe})` : '' }}
      </button>
    </div>
    <section v-for="group in groups" :key="group.cue.id" class="card" :data-cue="group.cue.id">
      <div class="card-title">
        <h2>
          <RouterLink :to="`/cues/${group.cue.id}`">{{ group.cue.name }}</RouterLink>
        </h2>
        <span v-if="!group.cue.on" class="soft small">off</span>
      </div>
      <ul>
        <SnagRow
          v-for="snag in group.snags"
          :key="snag.check + snag.beat + snag.what"
          :snag="snag"
          @mend="attempt(() => mend(snag))"
          @hide="(reason) => attempt(() => hide(snag, reason))"
        />
      </ul>
    </section>
    <p v-if="known && !groups.length" class="empty">
      {{
        which === 'Hidden'
          ? 'None hidden.'
          : snags.some(FITS.All)
            ? 'None of this kind.'
            : 'No snags: every cue works as set up.'
      }}
    </p>
  </div>
</template>

<style scoped>
.snags-page {
  display: grid;
  gap: 12px;
  max-width: 1100px;
  margin: 0 auto;
}

.head {
  flex-wrap: wrap;
}

ul {
  display: grid;
  gap: 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}

h2 a {
  color: inherit;
}

.empty {
  padding: 60px 0;
  text-align: center;
  color: var(--soft);
}
</style>
