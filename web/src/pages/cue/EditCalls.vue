<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { sayCall, type Call } from '@/logic/sentence'
import { useDraft } from './draft'

const book = useBook()
const { cue } = useDraft()
const title = ref('')
const cost = ref(300)
const word = ref('')
const match = ref<'is' | 'starts' | 'has_word' | 'contains'>('is')
const making = ref(false)

const free = computed(() => {
  const used = new Set(cue.value?.calls.map((call) => (call.kind === 'reward' ? call.reward : '')))
  return (book.book?.rewards ?? []).filter((reward) => !used.has(reward.id))
})
const others: { name: string; call: Call }[] = [
  { name: 'a follow', call: { kind: 'follow' } as Call },
  { name: 'a tip', call: { kind: 'tip', from: null, to: null } as Call },
  { name: 'a membership', call: { kind: 'membership' } as Call },
  { name: 'a raid', call: { kind: 'raid', from: null, to: null } as Call },
]

function add(call: Call): void {
  cue.value?.calls.push(JSON.parse(JSON.stringify(call)) as Call)
}

async function newReward(): Promise<void> {
  making.value = true
  await attempt(async () => {
    const made = await book.edit(() =>
      got(
        api.POST('/api/rewards/new', {
          body: {
            title: title.value || (cue.value?.name ?? ''),
            cost: cost.value,
            text: Boolean(cue.value?.door.text?.need),
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
  add({ kind: 'chat', match: match.value, text: word.value.trim() })
  word.value = ''
}
</script>

<template>
  <div v-if="cue && book.book" class="edit">
    <h2>What calls it</h2>
    <ul v-if="cue.calls.length" class="chips">
      <li v-for="(call, i) in cue.calls" :key="i" class="chip">
        {{ sayCall(call, book.book) }}
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
      <input
        v-model.number="cost"
        class="well cost"
        type="number"
        min="1"
        aria-label="Cost in points"
        data-test="reward-cost"
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
      <select v-model="match" class="well match" aria-label="How the message is matched">
        <option value="is">message is</option>
        <option value="starts">starts with</option>
        <option value="has_word">has word</option>
        <option value="contains">contains</option>
      </select>
      <input v-model="word" class="well grow" placeholder="!whistle" aria-label="What the message says" />
      <button class="btn">Add</button>
    </form>
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
