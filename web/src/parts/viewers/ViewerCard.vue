<script setup lang="ts">
/** A viewer: what they called, what they have, how they are read, and the streamer's settings for them. */
import { ElDrawer, ElPopconfirm, ElSwitch } from 'element-plus'
import { computed, shallowRef, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt, say } from '@/composables/useSay'
import { useViewerCard } from '@/composables/useViewerCard'
import PickField from '@/parts/PickField.vue'
import ViewerFace from './ViewerFace.vue'
import ViewerPoints from './ViewerPoints.vue'

const card = useViewerCard()
const book = useBook()
const told = shallowRef<Schemas['CardOut'] | null>(null)
const who = computed(() => told.value?.viewer ?? null)

async function load(): Promise<void> {
  const viewer = card.viewer
  told.value = viewer ? await got(api.GET('/api/viewers/card', { params: { query: { viewer } } })) : null
}
watch(
  () => card.viewer,
  () => void attempt(load).then(() => card.viewer && !told.value && (card.viewer = null)),
)
const parts = computed(() => [
  { value: '', name: 'as named in the text' },
  ...(book.book?.cast ?? []).map((part) => ({ value: part.id, name: part.name })),
])

async function change(to: Partial<Schemas['SayIn']>): Promise<void> {
  if (!card.viewer) return
  const body = { viewer: card.viewer, ...to } as Schemas['SayIn']
  await book.edit(() => got(api.POST('/api/viewers/say', { body })))
  await load()
  card.changes += 1
}

async function forget(): Promise<void> {
  if (!card.viewer) return
  await got(api.POST('/api/viewers/forget', { body: { viewer: card.viewer } }))
  card.viewer = null
  card.changes += 1
  say('Forgotten: their name and texts are gone; the totals stay.', 'fine')
}

const day = (ms: number): string =>
  new Date(ms).toLocaleString([], {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  })
const roles = computed(() =>
  (who.value?.roles ?? [])
    .map((role) => (role === 'member' ? `member of tier ${who.value?.tier}` : role))
    .join(', '),
)
</script>

<template>
  <ElDrawer
    append-to="#over"
    :model-value="card.viewer !== null"
    :title="who?.name || 'A forgotten viewer'"
    size="min(460px, 100%)"
    @close="card.viewer = null"
  >
    <div v-if="told && who" class="form" data-test="viewer-card">
      <div class="row about">
        <ViewerFace :id="who.id" :size="88" />
        <dl class="facts grow">
          <dt>Roles</dt>
          <dd>{{ roles || 'none' }}</dd>
          <dt>First seen</dt>
          <dd>{{ day(who.first) }}</dd>
          <dt>Last seen</dt>
          <dd>{{ day(who.last) }}</dd>
          <dt>Redeemed</dt>
          <dd>{{ who.redemptions }}, {{ who.refunds }} refunded</dd>
          <dt>Spent</dt>
          <dd>{{ who.spent.toLocaleString() }} points at the channel</dd>
          <template v-if="told.read_as">
            <dt>Read aloud as</dt>
            <dd>“{{ told.read_as }}”</dd>
          </template>
          <template v-if="told.merged">
            <dt>Same person as</dt>
            <dd><button class="btn tiny" @click="card.open(told.merged)">another viewer</button></dd>
          </template>
        </dl>
      </div>
      <section v-if="told.times.length" aria-label="Calls">
        <h2>Calls</h2>
        <ul class="times">
          <li v-for="one in told.times" :key="one.cue">
            <RouterLink :to="`/cues/${one.cue}`" @click="card.viewer = null">{{ one.name }}</RouterLink>
            <span class="soft">{{ one.said }}</span>
          </li>
        </ul>
      </section>
      <label class="field">
        Voice for their messages
        <PickField
          :model-value="who.part ?? ''"
          :choices="parts"
          aria-label="Own part"
          @update:model-value="attempt(() => change({ part: String($event) }))"
        />
      </label>
      <label class="row">
        <span class="grow">Exempt from cooldowns and limits</span>
        <ElSwitch
          :model-value="who.spared"
          aria-label="Exempt"
          @update:model-value="attempt(() => change({ spared: Boolean($event) }))"
        />
      </label>
      <label class="row">
        <span class="grow">Blocked: can’t call anything</span>
        <ElSwitch
          :model-value="who.shut_out"
          aria-label="Blocked"
          @update:model-value="attempt(() => change({ shut_out: Boolean($event) }))"
        />
      </label>
      <ViewerPoints
        v-if="book.book?.points.on"
        :card="told"
        @changed="attempt(load).then(() => (card.changes += 1))"
      />
      <div class="row foot">
        <RouterLink
          class="btn"
          :to="{ path: '/ledger', query: { viewer: who.name } }"
          @click="card.viewer = null"
          >Their calls in the ledger</RouterLink
        >
        <ElPopconfirm
          :persistent="false"
          title="Forget this viewer? Their name and texts are erased from the ledger and journal; totals stay. Daily copies keep them for up to 14 days. This can’t be undone."
          confirm-button-text="Forget"
          cancel-button-text="Cancel"
          width="300"
          @confirm="attempt(forget)"
        >
          <template #reference
            ><button class="btn danger" data-test="forget">Forget this viewer</button></template
          >
        </ElPopconfirm>
      </div>
    </div>
  </ElDrawer>
</template>

<style scoped>
.form {
  display: grid;
  gap: 16px;
}

.about {
  flex-wrap: nowrap;
  align-items: start;
  gap: 16px;
}

.facts {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  gap: 4px 16px;
  margin: 0;
}

dt {
  color: var(--soft);
}

dd {
  margin: 0;
  overflow-wrap: anywhere;
}

.times {
  display: grid;
  gap: 4px;
  margin: 6px 0 0;
  padding: 0;
  list-style: none;
}

.times li {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 4px 12px;
}

.foot {
  flex-wrap: wrap;
}
</style>
