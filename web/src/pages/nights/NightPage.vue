<script setup lang="ts">
/** A past night, replayed from the journal; and as files. */
import { ElMessageBox, ElSwitch } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, got, type Schemas } from '@/api/client'
import { useRehearsal } from '@/composables/useRehearsal'
import { attempt, say } from '@/composables/useSay'
import { nightName } from '@/logic/nights'
import NightView from '@/parts/night/NightView.vue'

const props = defineProps<{ id: string }>()
const router = useRouter()
const night = shallowRef<Schemas['NightRow'] | null>(null)
const missing = ref(false)
const madeUp = ref(false)
const note = ref('')
const { rehearsal, nights, busy, begin } = useRehearsal()
const number = computed(() => Number(props.id))

async function load(): Promise<void> {
  const query = { before: number.value + 1, limit: 1 }
  const found = (await got(api.GET('/api/nights', { params: { query } }))).nights[0]
  night.value = found?.id === number.value ? found : null
  missing.value = !night.value
  note.value = night.value?.note ?? ''
  if (night.value) await begin({ night: number.value, books: [{ kind: 'own' }] })
}
watch(number, () => void attempt(load), { immediate: true })

async function keepNote(): Promise<void> {
  const body = { note: note.value }
  await attempt(async () => {
    await got(api.PUT('/api/nights/{night}/note', { params: { path: { night: number.value } }, body }))
    say('Note saved.', 'fine')
  })
}
async function remove(): Promise<void> {
  const sure = await ElMessageBox.confirm(
    'This deletes the night and its calls from the ledger. It can’t be undone.',
    'Delete this night',
    { confirmButtonText: 'Delete', cancelButtonText: 'Cancel' },
  ).catch(() => null)
  if (!sure) return
  await attempt(async () => {
    await got(api.DELETE('/api/nights/{night}', { params: { path: { night: number.value } } }))
    await router.push('/nights')
  })
}
const FILES = [
  ['page', 'Print'],
  ['csv', 'CSV'],
  ['events', 'JSON lines'],
  ['script', 'Script'],
  ['vtt', 'Captions (VTT)'],
  ['otio', 'Timeline (OTIO)'],
  ['otioz', 'Timeline with media (OTIOZ)'],
] as const
</script>

<template>
  <div class="night-page">
    <div class="row wrap">
      <RouterLink class="btn tiny" to="/nights">Nights</RouterLink>
      <h1>{{ night ? nightName(night.at) : 'A night' }}</h1>
      <span v-if="night?.category" class="soft">{{ night.category }}</span>
      <span class="grow"></span>
      <template v-if="night">
        <RouterLink class="btn" :to="`/rehearse?night=${id}`" data-test="rehearse"
          >Rehearse this night</RouterLink
        >
        <RouterLink class="btn main" :to="`/rehearse?night=${id}&against=now`" data-test="against"
          >Compare with tonight’s book</RouterLink
        >
      </template>
    </div>
    <div v-if="night" class="row wrap">
      <input
        v-model="note"
        class="well note"
        placeholder="Note"
        aria-label="Note"
        data-test="note"
        @change="keepNote"
      />
      <span class="grow"></span>
      <label class="row small soft" title="In exported files"
        ><ElSwitch v-model="madeUp" size="small" aria-label="Made-up names" /> Made-up names</label
      >
      <a
        v-for="[kind, name] in FILES"
        :key="kind"
        class="btn tiny"
        :href="`/api/nights/${id}/files/${kind}${madeUp ? '?made_up=true' : ''}`"
        :target="kind === 'page' ? '_blank' : undefined"
        :data-test="`file-${kind}`"
        >{{ name }}</a
      >
      <button v-if="night.ended" class="btn tiny danger" @click="remove">Remove</button>
    </div>
    <div v-if="missing" class="empty">
      <p>This night no longer exists.</p>
      <RouterLink class="btn main" to="/nights">All nights</RouterLink>
    </div>
    <p v-else-if="busy && !nights.length" class="soft" role="status">Replaying the night…</p>
    <p v-if="rehearsal?.problem" class="soft">{{ rehearsal.problem }}</p>
    <NightView v-if="rehearsal && nights.length" :rehearsal="rehearsal" :nights="nights" />
  </div>
</template>

<style scoped>
.night-page {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  align-content: start;
}

.wrap {
  flex-wrap: wrap;
}

.note {
  flex: 1 1 260px;
  max-width: 460px;
}
</style>
