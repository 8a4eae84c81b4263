<script setup lang="ts">
/** A text as some viewer would write it: who says what, what was replaced and why, how long, and how it sounds. */
import { watchDebounced } from '@vueuse/core'
import { onMounted, onUnmounted, ref, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { sayDuration } from '@/logic/duration'
import { OverlayStage } from '@/overlay/stage'
import type { ShowMessage, SpeechInfo } from '@/overlay/types'
import { ElOption } from 'element-plus'
import PickField from '@/parts/PickField.vue'

const book = useBook()
const role = ref('follower')
const read = ref<Schemas['BenchOut'] | null>(null)
const busy = ref(false)
/** A first text, for existing parts. */
function sample(): string {
  const [first, second] = book.book?.cast ?? []
  if (!first) return 'Mind the gap, please.'
  return second
    ? `${first.name}: tickets please / ${second.name}: mind the gap`
    : `${first.name}: mind the gap, please`
}
let offered = sample()
const text = ref(offered)
watch(
  () => book.book?.cast,
  () => {
    if (text.value === offered) text.value = offered = sample()
  },
)
const root = ref<HTMLElement>()
let stage: OverlayStage | null = null
const ROLES = ['stranger', 'follower', 'member', 'vip', 'moderator']

onMounted(() => {
  if (root.value) stage = new OverlayStage(root.value, { sound: true, picture: true, now: () => Date.now() })
})
onUnmounted(() => stage?.clear())

/** Numbers the requests, so that a late answer doesn't replace a newer one. */
let asked = 0
async function ask(sound: boolean): Promise<void> {
  const number = ++asked
  const roles = role.value === 'stranger' ? [] : [...new Set(['follower', role.value])]
  const body = { text: text.value, viewer: 'hopper_kit', roles, tier: 1, sound }
  const answer = (await attempt(() => got(api.POST('/api/cast/bench', { body })))) ?? null
  if (number === asked) read.value = answer
}

// Who says what is shown while typing; only the sound needs the button.
watchDebounced(
  [text, role, () => book.version],
  () => {
    if (!busy.value) void ask(false)
  },
  { debounce: 250, immediate: true },
)

async function listen(): Promise<void> {
  busy.value = true
  stage?.clear()
  await ask(true)
  busy.value = false
  const sound = read.value?.sound as
    | (SpeechInfo & { url: string; length_s: number; pictures: string[]; blink: string | null })
    | null
    | undefined
  if (!sound) return
  const at = Date.now()
  const source = { kind: 'sound', mime: 'audio/wav', loops: 1, from_s: 0, to_s: null, gain_db: 0 } as const
  const message: ShowMessage = {
    t: 'show',
    run: 'bench',
    beat: String(at),
    kind: 'speech',
    value: read.value?.text,
    at,
    until: at + sound.length_s * 1000,
    look: {
      caption: true,
      mouth: true,
      size: 0.1,
      place: { x: 0.02, y: 0.62, w: 0.96, h: 0.36 },
      mouth_place: { x: 0.3, y: 0.02, w: 0.4, h: 0.6 },
    },
    media: [{ ...source, url: sound.url, length_s: sound.length_s }],
    speech: {
      words: sound.words,
      mouth: sound.mouth,
      pictures: await addresses(sound.pictures),
      blink: (await addresses(sound.blink ? [sound.blink] : []))[0] ?? null,
    },
  }
  stage?.show(message)
}

/** The addresses of a mouth's pictures. */
async function addresses(ids: string[]): Promise<string[]> {
  if (!ids.length) return []
  const media = await got(api.GET('/api/media'))
  return ids.flatMap((id) => media.find((m) => m.id === id)?.url ?? [])
}
</script>

<template>
  <section class="card bench" data-test="bench">
    <div class="row">
      <h2 class="grow">Test a message</h2>
      <label class="row small soft"
        >Written by a<PickField v-model="role" class="slim">
          <ElOption v-for="one in ROLES" :key="one" :value="one" :label="one" /> </PickField
      ></label>
    </div>
    <textarea
      v-model="text"
      class="well"
      rows="2"
      aria-label="Message from a viewer"
      data-test="bench-text"
    ></textarea>
    <div class="row">
      <button class="btn main" data-test="bench-listen" :disabled="busy || !text.trim()" @click="listen">
        {{ busy ? 'Preparing…' : 'Listen' }}
      </button>
      <span v-if="read?.speeches.length && !read.turned_away" class="far"
        >{{ read.sound ? '' : 'about ' }}{{ sayDuration(read.length_s) }}</span
      >
      <strong v-if="read?.turned_away" class="wrong">Refused: {{ read.turned_away }}</strong>
      <a v-if="read?.sound" class="small" :href="String(read.sound.url).replace('.wav', '.vtt')" download
        >WebVTT</a
      >
    </div>
    <ul v-if="read" class="said">
      <li v-for="(speech, i) in read.speeches" :key="i">
        <strong>{{ speech.name }}</strong><span v-if="speech.effect" class="soft"> ({{ speech.effect }})</span
        >: {{ speech.said }}
        <span v-if="speech.instead" class="small note"> {{ speech.instead }}</span>
      </li>
      <li
        v-for="(hit, i) in read.found"
        :key="`f${i}`"
        class="small"
        :class="hit.becomes === null ? 'wrong' : 'note'"
      >
        “{{ hit.written }}” matches “{{ hit.entry }}” in {{ hit.words }}:
        {{ hit.becomes === null ? 'refused' : `becomes “${hit.becomes}”` }}
      </li>
      <li v-if="!read.speeches.length && !read.turned_away" class="soft">Nothing in it can be read aloud.</li>
    </ul>
    <div ref="root" class="stage" data-hint="Mouth and caption appear here."></div>
  </section>
</template>

<style scoped>
.bench {
  display: grid;
  gap: 8px;
}

.slim {
  width: 120px;
  min-height: 30px;
}

.said {
  list-style: none;
  margin: 0;
  padding: 0;
}

.note {
  color: var(--marmalade);
}

.wrong {
  color: var(--berry);
}

.stage {
  height: 200px;
  background: var(--ground);
  border-radius: 6px;
}

.stage:empty::before {
  content: attr(data-hint);
  display: grid;
  place-items: center;
  height: 100%;
  color: var(--soft);
}
</style>
