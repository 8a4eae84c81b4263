<script setup lang="ts">
/** The playbill: what viewers may read, as it will look, with every text editable. */
import { ElDialog, ElSwitch } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, got, type Book, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'

type Playbill = Book['playbill']
const open = defineModel<boolean>({ required: true })
const book = useBook()
const texts = shallowRef<Schemas['TextOut'][]>([])
/** A new address, so that the frame reloads. */
const shown = ref(0)
const bill = computed(() => book.book?.playbill as Playbill)
const HEADS: Record<string, string> = {
  title: 'Title',
  intro: 'Subtitle',
  rewards: 'Heading',
  chat: 'Heading',
  writing: 'Heading',
  cast: 'Heading',
  winners: 'Heading',
  safety: 'Heading',
  foot: 'Footer',
}

async function load(): Promise<void> {
  texts.value = (await got(api.GET('/api/playbill'))).texts
  shown.value += 1
}
watch([open, () => book.version], () => open.value && void attempt(load))

function nameOf(key: string): string {
  const [kind, id] = key.split('/')
  if (!id) return HEADS[key] ?? key
  const all = book.book
  const found =
    kind === 'reward'
      ? all?.rewards.find((one) => one.id === id)?.title
      : kind === 'cue'
        ? all?.cues.find((one) => one.id === id)?.name
        : kind === 'part'
          ? all?.cast.find((one) => one.id === id)?.name
          : undefined
  return found ?? { writing: 'How to write', safety: 'For safety' }[kind ?? ''] ?? key
}

async function put(to: Partial<Playbill>): Promise<void> {
  await book.putPart('playbill', to)
}

function say(text: Schemas['TextOut'], said: string): void {
  const words = Object.fromEntries(Object.entries(bill.value.words).filter(([key]) => key !== text.key))
  if (said.trim() && said.trim() !== text.default) words[text.key] = said.trim()
  void attempt(() => put({ words }))
}

function leave(id: string, out: boolean): void {
  const others = bill.value.left_out.filter((one) => one !== id)
  void attempt(() => put({ left_out: out ? [...others, id] : others }))
}
</script>

<template>
  <ElDialog append-to="#over" v-model="open" title="Playbill" width="min(1180px, 96%)" top="4vh">
    <div v-if="bill" class="both" data-test="playbill-texts">
      <div class="texts" tabindex="0" role="region" aria-label="Texts">
        <p class="small soft">Texts are written from the book. Type here to replace one.</p>
        <label v-for="text in texts" :key="text.key" class="field">
          {{ nameOf(text.key) }}
          <textarea
            class="well"
            rows="2"
            maxlength="2000"
            :data-text="text.key"
            :value="text.said"
            @change="say(text, ($event.target as HTMLTextAreaElement).value)"
          ></textarea>
        </label>
        <fieldset v-if="book.book?.rewards.length" class="out">
          <legend class="small soft">Rewards shown</legend>
          <div v-for="reward in book.book.rewards" :key="reward.id" class="row" :data-on-it="reward.id">
            <span class="grow cut-off">{{ reward.title }}</span>
            <ElSwitch
              size="small"
              :model-value="!bill.left_out.includes(reward.id)"
              :aria-label="`${reward.title} is shown`"
              @update:model-value="leave(reward.id, !$event)"
            />
          </div>
        </fieldset>
        <label class="row">
          <span class="grow">Voice samples</span>
          <ElSwitch
            :model-value="bill.samples"
            aria-label="Voice samples"
            @update:model-value="attempt(() => put({ samples: Boolean($event) }))"
          />
        </label>
        <label class="row">
          <span class="grow">Winners</span>
          <ElSwitch
            :model-value="bill.winners"
            aria-label="Winners"
            @update:model-value="attempt(() => put({ winners: Boolean($event) }))"
          />
        </label>
      </div>
      <iframe :key="shown" class="page" src="/api/playbill.html" title="Playbill preview"></iframe>
    </div>
    <template #footer>
      <a class="btn" href="/api/playbill.md" download="playbill.md">As a text</a>
      <a class="btn main" href="/api/playbill.html" download="playbill.html" data-test="save-page"
        >As a page</a
      >
    </template>
  </ElDialog>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: 340px minmax(0, 1fr);
  gap: 16px;
  height: min(68vh, 720px);
}

.texts {
  display: grid;
  align-content: start;
  gap: 10px;
  overflow: auto;
  padding-right: 8px;
}

.out {
  display: grid;
  gap: 4px;
  margin: 0;
  padding: 4px 10px;
  border: 1px solid var(--line);
  border-radius: 8px;
}

.out .row {
  flex-wrap: nowrap;
}

.page {
  width: 100%;
  height: 100%;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--ground);
}

@media (max-width: 900px) {
  .both {
    grid-template-columns: minmax(0, 1fr);
    height: auto;
  }

  .page {
    height: 60vh;
  }
}
</style>
