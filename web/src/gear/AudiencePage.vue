<script setup lang="ts">
/** The audience: be any viewer, redeem, chat, tip, follow. */
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useChannel } from './useChannel'
import NumberField from '@/parts/NumberField.vue'

const { people, rewards, redemptions, said, stream, problem, act } = useChannel()
const who = ref('bramble_jo')
const text = ref('')
const message = ref('')
const tip = ref(5)
/** Whoever has the page open counts as watching; repeated before that runs out. */
const WATCHES_MS = 4 * 60_000
useIntervalFn(() => void act('/presence', { viewer: who.value }, false), WATCHES_MS, {
  immediateCallback: true,
})
watch(who, (viewer) => void act('/presence', { viewer }, false))

const person = computed(() => people.value.find((p) => p.name === who.value))
const mine = computed(() =>
  redemptions.value
    .filter((r) => r.viewer.name === who.value)
    .slice(-8)
    .reverse(),
)
const STATES = { unfulfilled: 'waiting', fulfilled: 'fulfilled', refunded: 'refunded' }

async function say(): Promise<void> {
  if (!message.value.trim()) return
  await act('/chat', { viewer: who.value, text: message.value })
  message.value = ''
}

/** The simulated gear, each with a window of its own. */
const WINDOWS = {
  broadcaster: 'Broadcaster',
  lights: 'Lamps',
  avatar: 'Avatar',
  voice: 'Voice box',
  haptics: 'Haptics',
  keys: 'Keys',
  hook: 'Hook box',
}
</script>

<template>
  <div class="audience">
    <header class="row">
      <h1>Tinwhistle Halt, the audience</h1>
      <span class="grow"></span>
      <nav class="windows small" aria-label="Windows of the simulated gear">
        <a v-for="(name, gear) in WINDOWS" :key="gear" :href="`/window/${gear}`" target="_blank">{{
          name
        }}</a>
      </nav>
      <span class="soft">{{ stream.category }}</span>
      <button
        class="btn"
        data-test="stream"
        @click="act('/stream', { state: stream.state === 'live' ? 'ended' : 'live' })"
      >
        {{ stream.state === 'live' ? 'End the stream' : 'Go live' }}
      </button>
    </header>
    <nav class="people" aria-label="Be a viewer">
      <button
        v-for="p in people"
        :key="p.id"
        class="person"
        :class="{ on: p.name === who }"
        :data-test="`be-${p.name}`"
        @click="who = p.name"
      >
        <strong>{{ p.name }}</strong>
        <span class="small soft">{{
          p.roles.map((r) => (r === 'member' ? `member ${p.tier}` : r)).join(', ') || 'a stranger'
        }}</span>
        <span class="far" :data-test="`points-${p.name}`">{{ p.points }}</span>
      </button>
    </nav>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <main class="grid">
      <section class="card">
        <h2>Rewards for {{ who }}</h2>
        <input
          v-model="text"
          class="well"
          placeholder="Text, for rewards that ask for one"
          aria-label="Text"
          data-test="text"
        />
        <p v-if="!rewards.length" class="soft">No rewards yet.</p>
        <ul>
          <li v-for="r in rewards" :key="r.id">
            <button
              class="reward"
              :style="r.colour ? { borderLeftColor: r.colour } : {}"
              :disabled="!r.on || r.paused || (person?.points ?? 0) < r.cost"
              :data-test="`redeem-${r.title}`"
              @click="act('/redemptions', { viewer: who, reward: r.id, text: r.text ? text : '' })"
            >
              <img v-if="r.pictures?.['96']" :src="r.pictures['96']" alt="" width="48" height="48" />
              <span class="grow"
                ><strong>{{ r.title }}</strong
                ><span v-if="r.text" class="soft small"> with a text</span><br /><span class="soft small">{{
                  r.prompt
                }}</span></span
              >
              <span class="far">{{ !r.on ? 'off' : r.paused ? 'paused' : r.cost }}</span>
            </button>
          </li>
        </ul>
      </section>
      <section class="card">
        <h2>What {{ who }} redeemed</h2>
        <p v-if="!mine.length" class="soft">Nothing yet.</p>
        <ul>
          <li v-for="r in mine" :key="r.id" class="row redeemed" :class="r.state">
            <span class="grow"
              >{{ r.title }}<span v-if="r.text" class="soft">: “{{ r.text }}”</span></span
            >
            <span class="state">{{ STATES[r.state] }}</span>
          </li>
        </ul>
        <h2>More</h2>
        <div class="row wrap">
          <button class="btn tiny" @click="act('/follows', { viewer: who })">Follow</button>
          <button class="btn tiny" @click="act('/memberships', { viewer: who, tier: 1, months: 1 })">
            Become a member
          </button>
          <button class="btn tiny" @click="act('/raids', { viewer: who, party: 25 })">
            Bring a raid of 25
          </button>
          <NumberField v-model="tip" class="tip" :least="1" aria-label="Amount" narrow />
          <button class="btn tiny" @click="act('/tips', { viewer: who, amount: tip, text })">Tip</button>
        </div>
      </section>
      <section class="card chat">
        <h2>Chat</h2>
        <ul class="said">
          <li v-for="m in said.slice(-30)" :key="m.id">
            <strong>{{ m.viewer.name }}</strong> {{ m.text }}
          </li>
        </ul>
        <form class="row" @submit.prevent="say">
          <input v-model="message" class="well grow" placeholder="Say something" aria-label="Message" />
          <button class="btn main">Say</button>
        </form>
      </section>
    </main>
  </div>
</template>

<style scoped>
.windows {
  display: flex;
  gap: 10px;
}

.audience {
  display: grid;
  gap: 14px;
  padding: 16px 20px;
}

.people {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(140px, 1fr));
  gap: 8px;
}

.person {
  display: grid;
  text-align: left;
  padding: 8px 12px;
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: var(--corner);
  cursor: pointer;
}

.person.on {
  border-color: var(--marmalade);
  background: var(--raised);
}

.grid {
  display: grid;
  grid-template-columns: 1.2fr 1fr 1fr;
  gap: 12px;
  align-items: start;
}

.grid .card {
  display: grid;
  gap: 10px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}

.reward {
  display: flex;
  gap: 12px;
  align-items: center;
  width: 100%;
  padding: 8px 12px;
  text-align: left;
  background: var(--raised);
  border: 1px solid var(--line);
  border-left-width: 5px;
  border-radius: 8px;
  cursor: pointer;
}

.reward img {
  border-radius: 6px;
}

.reward:disabled {
  opacity: 0.45;
  cursor: default;
}

.fulfilled .state {
  color: var(--mint);
}

.refunded .state {
  color: var(--berry);
}

.unfulfilled .state {
  color: var(--marmalade);
}

.wrap {
  flex-wrap: wrap;
}

.tip {
  width: 80px;
}

.said {
  max-height: 260px;
  overflow: auto;
  overflow-wrap: anywhere;
}

.problem {
  margin: 0;
  color: var(--berry);
  font-weight: 700;
}
</style>
