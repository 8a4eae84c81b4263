<script setup lang="ts">
/** Rehearse: an audience or a past night, with this book or another; viewed, compared, and a setting found. */
import { ElOption, ElProgress, ElSegmented } from 'element-plus'
import { useLocalStorage } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useRehearsal, type RehearsalWish } from '@/composables/useRehearsal'
import { attempt, say } from '@/composables/useSay'
import NightView from '@/parts/night/NightView.vue'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'
import AudiencePanel from './AudiencePanel.vue'
import FindIt from './FindIt.vue'
import { under } from '@/logic/choices'
import { nightName } from '@/logic/nights'
import TwoBooks from './TwoBooks.vue'
import { useAudiences } from './useAudiences'

const route = useRoute()
const book = useBook()
/** An audience by its id, or a past night as `night:ID`. */
const source = useLocalStorage('rehearse-source', '')
const kept = shallowRef<Schemas['NightRow'][]>([])
const { audiences, audience, change, add, remove } = useAudiences(source)
const night = computed(() => kept.value.find((one) => `night:${one.id}` === source.value) ?? null)
const choices = computed(() => [
  ...under(
    'Audiences',
    '',
    audiences.value.map((one) => ({ value: one.id, name: one.name })),
  ),
  ...under(
    'Past nights',
    'night:',
    kept.value.map((one) => ({ value: one.id, name: nightName(one.at) })),
  ),
])
const can = computed(() => Boolean(audience.value ?? night.value))

const ROOMS = [
  { value: 'night', label: 'The night' },
  { value: 'two', label: 'Two books' },
  { value: 'find', label: 'Find it' },
]
const room = ref('night')
const drawing = ref(true)
const { rehearsal, nights, busy, begin, stop } = useRehearsal()
const many = ref(20)
const percent = computed(() =>
  rehearsal.value?.total ? Math.round((rehearsal.value.done / rehearsal.value.total) * 100) : 0,
)

onMounted(() =>
  attempt(async () => {
    kept.value = (await got(api.GET('/api/nights'))).nights
    revisions.value = await got(api.GET('/api/books'))
    const asked = Number(route.query.night ?? 0)
    if (asked) source.value = `night:${asked}`
    else if (!can.value) source.value = audiences.value[0]?.id ?? ''
    if (route.query.against === 'now') {
      room.value = 'two'
      second.value = 'now'
      first.value = 'own'
      run()
    } else if (asked) run()
  }),
)

// Which books

const revisions = shallowRef<Schemas['BookBefore'][]>([])
const first = ref('now')
const second = ref('')
const file = shallowRef<{ name: string; book: Record<string, unknown> } | null>(null)
const chooser = ref<HTMLInputElement>()
function choiceOf(picked: string): Schemas['BookChoice'] {
  if (picked === 'own' || picked === 'now') return { kind: picked }
  if (picked === 'file') return { kind: 'file', book: (file.value?.book ?? null) as never }
  return { kind: 'revision', version: Number(picked) }
}
async function takeFile(taken: File | undefined): Promise<void> {
  if (!taken) return
  await attempt(async () => {
    try {
      file.value = { name: taken.name, book: JSON.parse(await taken.text()) as Record<string, unknown> }
      second.value = 'file'
    } catch {
      say(`${taken.name} isn’t a book: it isn’t JSON.`, 'wrong')
    }
  })
}

/** Whose night it is. */
function whose(): Partial<RehearsalWish> {
  return night.value ? { night: night.value.id } : { audience: audience.value?.id ?? '' }
}
function run(count = 1): void {
  if (!can.value) return
  const one = night.value ? (first.value === 'own' ? 'own' : 'now') : 'now'
  const books =
    room.value === 'two' && second.value ? [choiceOf(one), choiceOf(second.value)] : [choiceOf(one)]
  drawing.value = false
  void begin({ ...whose(), books, nights: count, seed: 1 })
}
function sweep(wish: Partial<RehearsalWish>): void {
  drawing.value = false
  void begin({ ...whose(), ...wish })
}

/** Puts a value that was found into the book; Ctrl+Z undoes it. */
async function put(setting: string, value: number | string): Promise<void> {
  await attempt(async () => {
    const done = await book.edit(() => got(api.POST('/api/book/setting', { body: { setting, value } })))
    say(done.what ? `${done.what}. Ctrl+Z undoes it.` : 'It’s already set to that.', 'fine')
  })
}
const looked = computed(() => rehearsal.value && !rehearsal.value.setting)
watch(
  () => rehearsal.value?.problem,
  (problem) => problem && say(problem, 'wrong'),
)
</script>

<template>
  <div class="rehearse">
    <div class="row wrap">
      <h1>Rehearse</h1>
      <PickField
        v-model="source"
        class="source"
        aria-label="Audience"
        data-test="source"
        placeholder="Audience"
        :choices="choices"
      />
      <PickField v-if="night" v-model="first" class="book" aria-label="Book">
        <ElOption value="now" label="with the current book" />
        <ElOption value="own" label="as it happened" />
      </PickField>
      <button class="btn" data-test="new-audience" @click="add('New audience')">New audience</button>
      <span class="grow"></span>
      <template v-if="busy">
        <ElProgress
          class="progress"
          :percentage="percent"
          :stroke-width="10"
          :show-text="false"
          :aria-label="`${rehearsal?.done ?? 0} of ${rehearsal?.total ?? 0} nights`"
        />
        <span class="small soft" role="status"
          >{{ rehearsal?.done ?? 0 }} of {{ rehearsal?.total ?? 0 }}</span
        >
        <button class="btn" data-test="stop" @click="stop">Stop</button>
      </template>
      <template v-else>
        <button
          v-if="!night"
          class="btn"
          :disabled="!can || (room === 'two' && !second)"
          data-test="run-many"
          @click="run(many)"
        >
          Run {{ many }} nights
        </button>
        <button
          class="btn main"
          :disabled="!can || (room === 'two' && !second)"
          data-test="run"
          @click="run()"
        >
          Run night
        </button>
      </template>
    </div>
    <div class="row wrap">
      <ElSegmented v-model="room" :options="ROOMS" aria-label="View" />
      <template v-if="room === 'two'">
        <PickField
          v-model="second"
          class="second"
          aria-label="Compare with"
          placeholder="the other book"
          data-test="second"
        >
          <ElOption v-if="night" value="own" label="that night’s book" />
          <ElOption v-if="night" value="now" label="the current book" />
          <ElOption v-if="file" value="file" :label="file.name" />
          <ElOption
            v-for="one in revisions.slice(1, 60)"
            :key="one.id"
            :value="String(one.id)"
            :label="`before: ${one.what || one.id}`"
          />
        </PickField>
        <button class="btn tiny" @click="chooser?.click()">A book's file</button>
        <input
          ref="chooser"
          type="file"
          hidden
          accept=".json"
          data-test="book-file"
          @change="(takeFile(chooser?.files?.[0]), chooser && (chooser.value = ''))"
        />
      </template>
      <label v-if="room === 'two' && !night" class="row small soft"
        >nights <NumberField v-model="many" class="count" :least="2" :most="200" whole aria-label="nights"
      /></label>
      <span class="grow"></span>
      <template v-if="audience">
        <input
          class="well name"
          :value="audience.name"
          aria-label="Audience name"
          data-test="audience-name"
          @change="change({ name: ($event.target as HTMLInputElement).value })"
        />
        <button class="btn tiny" @click="add(`${audience.name} too`, audience)">Duplicate</button>
        <button class="btn tiny danger" @click="remove">Remove</button>
        <button class="btn tiny" :aria-expanded="drawing" data-test="draw" @click="drawing = !drawing">
          {{ drawing ? 'Close' : 'Edit' }}
        </button>
      </template>
    </div>
    <AudiencePanel v-if="audience && drawing" :audience="audience" @change="change" />
    <div v-if="!can" class="empty">
      <p>
        Describe an audience: how many viewers, when they come, what they like. A whole night then plays in
        moments and shows what it does to lanes, waits and refunds.
      </p>
      <button class="btn main" @click="add('Friday evening')">Create an audience</button>
    </div>
    <FindIt
      v-if="room === 'find'"
      :rehearsal="rehearsal"
      :busy="busy"
      :can="can"
      @run="sweep"
      @stop="stop"
      @set="put"
    />
    <template v-else-if="looked && rehearsal">
      <TwoBooks v-if="rehearsal.told.length === 2" :rehearsal="rehearsal" />
      <NightView v-if="nights.length" :rehearsal="rehearsal" :nights="nights" />
    </template>
    <p v-if="room === 'two' && !second" class="soft">
      Choose a book to compare with: an earlier version or a file. Both play over the same nights.
    </p>
  </div>
</template>

<style scoped>
.rehearse {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  align-content: start;
  min-width: 0;
}

.wrap {
  flex-wrap: wrap;
}

.source {
  width: 230px;
}

.book,
.second {
  width: 240px;
}

.count {
  width: 100px;
}

.name {
  width: 170px;
}

.progress {
  width: 160px;
}
</style>
