<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useGear } from '@/composables/useGear'
import { attempt } from '@/composables/useSay'
import { sayCall, type Call } from '@/logic/sentence'
import { useDraft } from '../draft'
import { ElOption } from 'element-plus'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const book = useBook()
const { cue } = useDraft()
const title = ref('')
const cost = ref(300)
const word = ref('')
const match = ref<'is' | 'starts' | 'has_word' | 'contains'>('is')
const making = ref(false)
const message = ref('')
const heard = ref<Schemas['MatchOut'][]>([])

const free = computed(() => {
  const used = new Set(cue.value?.calls.map((call) => (call.kind === 'reward' ? call.reward : '')))
  return (book.book?.rewards ?? []).filter((reward) => !used.has(reward.id))
})
const others: { name: string; call: Call }[] = [
  { name: 'the stream goes live', call: { kind: 'stream', state: 'live' } as Call },
  { name: 'a follow', call: { kind: 'follow' } as Call },
  { name: 'a tip', call: { kind: 'tip', from: null, to: null } as Call },
  { name: 'a membership', call: { kind: 'membership' } as Call },
  { name: 'a raid', call: { kind: 'raid', from: null, to: null } as Call },
]

const inlets = computed(() => {
  const used = new Set(cue.value?.calls.map((call) => (call.kind === 'hook' ? call.name : '')))
  return (book.book?.inlets ?? []).filter((inlet) => !used.has(inlet.name))
})

const gear = useGear()
const scenes = computed(() => {
  const used = (cue.value?.calls ?? []).map((call) => (call.kind === 'scene' ? call.scene : ''))
  return Object.keys(gear.broadcast?.scenes ?? {}).filter((name) => !used.includes(name))
})
const chats = computed(() => (cue.value?.calls ?? []).filter((call) => call.kind === 'chat'))
/** The message that is tried, held against every chat call as live. */
watch([message, chats], async () => {
  const calls = JSON.parse(JSON.stringify(chats.value)) as Schemas['MatchIn']['calls']
  heard.value =
    message.value && calls.length
      ? await got(api.POST('/api/cues/match', { body: { calls, text: message.value } })).catch(() => [])
      : []
})
const verdict = computed(() => {
  if (!heard.value.length) return ''
  const made = heard.value.find((one) => one.matches)
  if (!made) return 'would not call it'
  return made.text && made.text !== message.value ? `calls it, with the text “${made.text}”` : 'calls it'
})

/** The bounds that some calls have: from and to, or a tier. */
function bound(call: Call): { from?: number | null; to?: number | null } | null {
  return call.kind === 'tip' || call.kind === 'raid' ? call : null
}

function setBound(call: Call, edge: 'from' | 'to', value: number | null): void {
  Object.assign(call, { [edge]: value })
}

function add(call: Call): void {
  cue.value?.calls.push(JSON.parse(JSON.stringify(call)) as Call)
}

async function newReward(): Promise<void> {
  making.value = true
  await attempt(async () => {
    const made = await book.edit(() =>
      got(
        api.POST('/api/rewards', {
          body: {
            title: title.value || (cue.value?.name ?? ''),
            cost: cost.value,
            text: Boolean(cue.value?.door.text?.need),
            cue: false,
          },
        }),
      ),
    )
    add({ kind: 'reward', reward: made.reward.id })
    title.value = ''
  })
  making.value = false
}

function addChat(): void {
  if (!word.value.trim()) return
  add({ kind: 'chat', match: match.value, text: word.value.trim(), cost: null })
  word.value = ''
}
</script>

<template>
  <div v-if="cue && book.book" class="edit">
    <h2>What calls it</h2>
    <ul v-if="cue.calls.length" class="chips">
      <li v-for="(call, i) in cue.calls" :key="i" class="chip">
        {{ sayCall(call, book.book) }}
        <template v-if="bound(call)">
          <NumberField
            v-for="edge in ['from', 'to'] as const"
            :key="edge"
            class="edge small"
            :least="0"
            :hint="edge"
            :aria-label="edge"
            :model-value="bound(call)?.[edge]"
            @update:model-value="setBound(call, edge, $event)"
            optional
            narrow
            @clear="setBound(call, edge, null)"
          />
        </template>
        <NumberField
          v-if="call.kind === 'chat' && book.book.points.on"
          class="edge small"
          :least="1"
          :most="10_000_000"
          whole
          optional
          narrow
          hint="free"
          :aria-label="`What it costs in ${book.book.points.name}`"
          :model-value="call.cost"
          @update:model-value="call.cost = $event"
          @clear="call.cost = null"
        />
        <PickField
          v-if="call.kind === 'membership'"
          :model-value="call.tier ?? 0"
          class="edge tier small"
          aria-label="From which tier"
          @update:model-value="call.tier = $event || null"
        >
          <ElOption :value="0" label="any tier" />
          <ElOption v-for="tier in [1, 2, 3]" :key="tier" :value="tier" :label="`from tier ${tier}`" />
        </PickField>
        <button class="btn bare tiny" aria-label="Take out" @click="cue.calls.splice(i, 1)">✕</button>
      </li>
    </ul>
    <p v-else class="soft small">Nothing but its pad yet.</p>
    <form class="row" @submit.prevent="newReward">
      <input
        v-model="title"
        class="well grow"
        :placeholder="`New reward: ${cue.name}`"
        aria-label="Title of a new reward"
        data-test="reward-title"
      />
      <NumberField
        v-model="cost"
        class="cost"
        :least="1"
        aria-label="Cost in points"
        data-test="reward-cost"
        whole
      />
      <button class="btn" data-test="reward-add" :disabled="making">Make</button>
    </form>
    <div v-if="free.length" class="row wrap">
      <button
        v-for="reward in free"
        :key="reward.id"
        class="btn tiny"
        @click="add({ kind: 'reward', reward: reward.id })"
      >
        {{ reward.title }} ({{ reward.cost }})
      </button>
    </div>
    <form class="row" @submit.prevent="addChat">
      <PickField v-model="match" class="match" aria-label="How the message is matched">
        <ElOption value="is" label="message is" />
        <ElOption value="starts" label="starts with" />
        <ElOption value="has_word" label="has word" />
        <ElOption value="contains" label="contains" />
      </PickField>
      <input v-model="word" class="well grow" placeholder="!whistle" aria-label="What the message says" />
      <button class="btn">Add</button>
    </form>
    <label v-if="chats.length" class="field">
      Try a message
      <input v-model="message" class="well" data-test="match" placeholder="Write as a viewer would" />
      <span v-if="verdict" data-test="verdict" :class="verdict.startsWith('calls') ? 'fine' : 'wrong'">{{
        verdict
      }}</span>
    </label>
    <div v-if="scenes.length" class="row wrap">
      <button
        v-for="scene in scenes"
        :key="scene"
        class="btn tiny"
        :data-test="`scene-call-${scene}`"
        @click="add({ kind: 'scene', scene } as Call)"
      >
        {{ scene }} comes up
      </button>
    </div>
    <div v-if="inlets.length" class="row wrap">
      <button
        v-for="inlet in inlets"
        :key="inlet.id"
        class="btn tiny"
        :data-test="`inlet-call-${inlet.id}`"
        @click="add({ kind: 'hook', name: inlet.name } as Call)"
      >
        a hook at {{ inlet.name }}
      </button>
    </div>
    <div class="row wrap">
      <button v-for="other in others" :key="other.name" class="btn tiny" @click="add(other.call)">
        {{ other.name }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.edit {
  display: grid;
  gap: 10px;
}

.chips {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.chip {
  display: flex;
  align-items: center;
  padding-left: 10px;
  background: var(--ground);
  border: 1px solid var(--line);
  border-radius: 16px;
}

.edge {
  width: 64px;
  margin-left: 6px;
}

.edge.tier {
  width: 120px;
}

.fine {
  color: var(--mint);
}

.wrong {
  color: var(--berry);
}

.cost {
  width: 84px;
}

.match {
  width: 130px;
}

.wrap {
  flex-wrap: wrap;
}
</style>
