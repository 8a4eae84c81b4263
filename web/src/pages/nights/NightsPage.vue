<script setup lang="ts">
/** Nights: every saved stream, and their lengths. */
import { ElOption } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { attempt, say } from '@/composables/useSay'
import { clock, nightName } from '@/logic/nights'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'

const book = useBook()
const live = useLive()
const nights = shallowRef<Schemas['NightRow'][]>([])
const before = ref<number | null>(null)
const loaded = ref(false)

async function load(more = false): Promise<void> {
  const query = more && before.value !== null ? { before: before.value } : {}
  const answer = await got(api.GET('/api/nights', { params: { query } }))
  nights.value = more ? [...nights.value, ...answer.nights] : answer.nights
  before.value = answer.before
  loaded.value = true
}
watch(
  () => live.state?.on_air,
  () => void attempt(() => load()),
  { immediate: true },
)

const highest = (night: Schemas['NightRow']): number => Math.max(1, ...night.curve)
const size = (bytes: number): string =>
  bytes < 1_000_000 ? `${Math.max(1, Math.round(bytes / 1000))} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`

// Retention

const how = computed(() => {
  const house = book.book?.house
  return house?.nights_kept ? 'nights' : house?.nights_days ? 'days' : 'ever'
})
const wished = ref<'ever' | 'nights' | 'days' | ''>('')
const count = ref(20)
const shown = computed(() => wished.value || how.value)
watch(
  how,
  (now) => {
    const house = book.book?.house
    count.value = (now === 'days' ? house?.nights_days : house?.nights_kept) ?? 20
  },
  { immediate: true },
)
const frees = shallowRef<Schemas['FreedOut'] | null>(null)
watch([shown, count], () => {
  frees.value = null
  if (shown.value === 'ever') return
  const query = shown.value === 'days' ? { days: count.value } : { kept: count.value }
  void attempt(async () => (frees.value = await got(api.GET('/api/nights/freed', { params: { query } }))))
})
const same = computed(() => {
  const house = book.book?.house
  const now = how.value === 'days' ? house?.nights_days : house?.nights_kept
  return shown.value === how.value && (how.value === 'ever' || now === count.value)
})
async function keep(): Promise<void> {
  await attempt(async () => {
    await book.putHouse({
      nights_kept: shown.value === 'nights' ? count.value : null,
      nights_days: shown.value === 'days' ? count.value : null,
    })
    wished.value = ''
    say(
      shown.value === 'ever'
        ? 'Saved: every night is kept.'
        : 'Saved. Older nights are deleted in an hour; until then, Ctrl+Z undoes this.',
      'fine',
    )
  })
}
</script>

<template>
  <div class="nights">
    <div class="row wrap">
      <h1>Nights</h1>
      <RouterLink class="btn" to="/rehearse">Rehearse</RouterLink>
      <span class="grow"></span>
      <span class="small soft">Keep nights</span>
      <PickField
        :model-value="shown"
        class="pick"
        aria-label="How long nights are kept"
        data-test="kept"
        @update:model-value="wished = $event"
      >
        <ElOption value="ever" label="forever" />
        <ElOption value="nights" label="a fixed number of nights" />
        <ElOption value="days" label="a number of days" />
      </PickField>
      <NumberField
        v-if="shown !== 'ever'"
        v-model="count"
        class="count"
        :least="1"
        :most="10000"
        whole
        aria-label="number"
      />
      <span v-if="frees && shown !== 'ever'" class="small soft" data-test="frees">
        {{
          frees.nights
            ? `deletes ${frees.nights} nights with ${frees.calls} calls (${size(frees.bytes)}), an hour after you save`
            : 'deletes nothing now'
        }}
      </span>
      <button class="btn main" :disabled="same" data-test="keep" @click="keep">Save</button>
    </div>
    <ul class="list">
      <li v-for="night in nights" :key="night.id" class="card night" :data-test="`night-${night.id}`">
        <RouterLink class="when" :to="`/nights/${night.id}`"
          ><b class="far">{{ nightName(night.at) }}</b></RouterLink
        >
        <span class="soft">{{ night.ended ? `${clock(night.ended - night.at)} h` : 'on air' }}</span>
        <span class="soft cut-off">{{ night.category }}</span>
        <svg
          class="curve"
          viewBox="0 0 60 20"
          preserveAspectRatio="none"
          role="img"
          aria-label="When calls came"
        >
          <rect
            v-for="(n, i) in night.curve"
            :key="i"
            :x="i + 0.1"
            width="0.8"
            :y="20 - (20 * n) / highest(night)"
            :height="(20 * n) / highest(night)"
          />
        </svg>
        <span
          ><b>{{ night.calls }}</b> <span class="soft">calls</span></span
        >
        <span
          ><b>{{ night.refunds }}</b> <span class="soft">refunded</span></span
        >
        <span class="soft small">{{ size(night.size) }}</span>
        <RouterLink class="btn tiny" :to="`/rehearse?night=${night.id}`">Rehearse</RouterLink>
        <span v-if="night.note" class="note small soft cut-off">{{ night.note }}</span>
      </li>
    </ul>
    <button v-if="before !== null" class="btn" @click="attempt(() => load(true))">Show more</button>
    <div v-if="loaded && !nights.length" class="empty">
      <p>
        Every stream is saved here, to review and rehearse again. The first appears when your channel goes
        live.
      </p>
      <RouterLink class="btn main" to="/rehearse">Rehearse one meanwhile</RouterLink>
    </div>
  </div>
</template>

<style scoped>
.nights {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  align-content: start;
}

.wrap {
  flex-wrap: wrap;
}

.pick {
  width: 170px;
}

.count {
  width: 110px;
}

.list {
  display: grid;
  gap: 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}

.night {
  display: grid;
  grid-template-columns: 250px 60px 120px minmax(120px, 1fr) 90px 110px 60px auto;
  align-items: center;
  gap: 4px 16px;
}

.when {
  color: inherit;
  text-decoration: none;
}

.when:hover {
  text-decoration: underline;
}

.curve {
  width: 100%;
  height: 34px;
}

.curve rect {
  fill: var(--marmalade);
}

.note {
  grid-column: 1 / -1;
}

@media (max-width: 1000px) {
  .night {
    grid-template-columns: 1fr auto auto;
  }

  .curve {
    grid-column: 1 / -1;
  }
}
</style>
