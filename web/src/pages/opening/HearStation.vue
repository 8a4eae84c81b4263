<script setup lang="ts">
/** The channel: by its address and token, or the simulated one; and its answer, in words. */
import { computed, ref } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { attempt } from '@/composables/useSay'

const book = useBook()
const live = useLive()
const address = ref('')
const token = ref('')
const busy = ref(false)
const channels = computed(() => (live.state?.gear ?? []).filter((one) => one.kind === 'channel'))
const WORDS = {
  in_step: 'is heard',
  catching_up: 'is catching up',
  away: 'isn’t connected',
  off: 'is off',
} as const

async function connect(): Promise<void> {
  busy.value = true
  await attempt(async () => {
    const there = book.book?.gear.find((one) => one.kind === 'channel')
    const id = there?.id ?? 'channel'
    if (token.value) {
      // Saved first, so that the first attempt uses it.
      await book.put('gear', {
        name: 'Channel',
        ...there,
        id,
        kind: 'channel',
        on: false,
        address: address.value.trim(),
      })
      const params = { path: { gear_id: id } }
      await got(api.PUT('/api/gear/{gear_id}/secret', { params, body: { secret: token.value } }))
    }
    await book.put('gear', {
      name: 'Channel',
      ...there,
      id,
      kind: 'channel',
      on: true,
      address: address.value.trim(),
    })
    token.value = ''
  })
  busy.value = false
}

async function simulate(): Promise<void> {
  busy.value = true
  await attempt(async () => {
    const told = await got(api.POST('/api/simulated'))
    const there = book.book?.gear.find((one) => one.kind === 'channel')
    const id = there?.id ?? 'channel'
    const name = 'Simulated channel'
    await book.put('gear', { ...there, id, kind: 'channel', name, on: true, address: told.address ?? '' })
  })
  busy.value = false
}
</script>

<template>
  <ul v-if="channels.length" class="there">
    <li v-for="one in channels" :key="one.id" :class="one.state" data-test="channel-says">
      <strong>{{ one.name }}</strong> {{ WORDS[one.state]
      }}<template v-if="one.problem">: {{ one.problem }}</template>
    </li>
  </ul>
  <form class="row ask" @submit.prevent="connect">
    <label class="field grow"
      >Channel address<input
        v-model="address"
        class="well"
        placeholder="http://127.0.0.1:8710"
        data-test="channel-address"
    /></label>
    <label class="field"
      >Token (if required)<input v-model="token" class="well" type="password" autocomplete="off"
    /></label>
    <button class="btn" :disabled="busy || !address.trim()">Connect</button>
  </form>
  <div class="row">
    <button class="btn main" data-test="simulate" :disabled="busy" @click="simulate">
      {{ busy ? 'One moment…' : 'Use the simulated channel' }}
    </button>
    <span class="soft small">Runs on this computer, with viewers to play with.</span>
  </div>
</template>

<style scoped>
.there {
  margin: 0;
  padding: 0;
  list-style: none;
}

.in_step strong {
  color: var(--mint);
}

.away {
  color: var(--berry);
}

.ask {
  align-items: end;
  flex-wrap: wrap;
}
</style>
