<script setup lang="ts">
/** Long work: its progress, and a way to stop it. Hidden without any. */
import { computed } from 'vue'
import { api, got } from '@/api/client'
import { useLive } from '@/composables/useLive'
import { attempt } from '@/composables/useSay'

type What = 'reading' | 'measuring' | 'converting' | 'importing' | 'exporting'
const props = withDefaults(defineProps<{ of?: What[] }>(), {
  of: () => ['reading', 'measuring', 'converting'],
})
const live = useLive()
const WORDS: Record<What, string> = {
  reading: 'Reading',
  measuring: 'Measuring',
  converting: 'Converting',
  importing: 'Importing',
  exporting: 'Exporting',
}
const going = computed(() =>
  (live.state?.jobs ?? []).filter(
    (job) => (job.state === 'running' || job.state === 'waiting') && props.of.includes(job.what as What),
  ),
)

function stop(job_id: number): Promise<unknown> {
  return attempt(() => got(api.DELETE('/api/jobs/{job_id}', { params: { path: { job_id } } })))
}
</script>

<template>
  <section v-if="going.length" aria-label="Work in progress">
    <ul class="jobs" data-test="jobs">
      <li v-for="job in going" :key="job.id" class="row">
        <span class="cut-off name">{{ WORDS[job.what as What] }} {{ job.name }}</span>
        <progress :value="job.share || undefined" max="1"></progress>
        <span class="soft small share">{{
          job.state === 'waiting' ? 'waits' : job.share ? `${Math.round(job.share * 100)} %` : ''
        }}</span>
        <button class="btn tiny" @click="stop(job.id)">Stop</button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.jobs {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 4px;
}

.name {
  width: 240px;
}

progress {
  flex: 1;
  height: 10px;
}

.share {
  width: 48px;
  text-align: right;
}
</style>
