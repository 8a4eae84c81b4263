<script setup lang="ts">
/** The overlay: its link, its page the moment it connects, a test, and the likely problems if it was missed. */
import { computed, ref } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { useOpening } from '@/composables/useOpening'
import { useOverlayLink } from '@/composables/useOverlayLink'
import { attempt, say } from '@/composables/useSay'
import { reasonsFor } from '@/logic/opening'

const book = useBook()
const live = useLive()
const { said } = useOpening()
const overlay = computed(() => book.book?.overlays.find((one) => !one.private) ?? book.book?.overlays[0])
const state = computed(() => live.state?.overlays.find((one) => one.id === overlay.value?.id))
const { copy } = useOverlayLink(() => overlay.value?.id ?? '')
const asking = ref(false)
const missed = ref<'seen' | 'heard' | null>(null)
const reasons = computed(() =>
  missed.value && overlay.value ? reasonsFor(missed.value, state.value?.told ?? [], overlay.value) : [],
)

async function make(): Promise<void> {
  await attempt(() => book.put('overlays', { id: 'stream', name: 'Stream' }))
}

async function test(): Promise<void> {
  await attempt(async () => {
    const params = { path: { overlay_id: overlay.value?.id ?? '' } }
    say((await got(api.POST('/api/overlays/{overlay_id}/test', { params }))).what, 'fine')
    asking.value = true
    missed.value = null
  })
}

function answer(seen: boolean, heard: boolean): void {
  said.value.seen = seen
  said.value.heard = heard
  missed.value = !seen ? 'seen' : !heard ? 'heard' : null
  asking.value = missed.value !== null
}
</script>

<template>
  <div v-if="!overlay" class="row">
    <span class="soft">No overlay yet.</span>
    <button class="btn main" @click="make">Make one</button>
  </div>
  <template v-else>
    <p class="none">
      Put the link of the overlay into your broadcasting program as a page of
      {{ overlay.width }} × {{ overlay.height }} points.
    </p>
    <div class="row">
      <button class="btn" :class="{ main: !state?.pages }" data-test="copy-link" @click="attempt(copy)">
        Copy the link
      </button>
      <strong :class="state?.pages ? 'fine' : 'soft'" data-test="pages" aria-live="polite">{{
        state?.pages
          ? `${state.pages} ${state.pages === 1 ? 'page is' : 'pages are'} connected`
          : 'no page connected yet'
      }}</strong>
    </div>
    <div class="row">
      <button
        class="btn"
        :class="{ main: state?.pages && !asking }"
        data-test="test-overlay"
        :disabled="!state?.pages"
        @click="test"
      >
        Test picture and sound
      </button>
      <template v-if="asking">
        <strong>Seen? Heard?</strong>
        <button class="btn main" data-test="seen-and-heard" @click="answer(true, true)">Both</button>
        <button class="btn tiny" @click="answer(true, false)">Only seen</button>
        <button class="btn tiny" @click="answer(false, true)">Only heard</button>
        <button class="btn tiny" @click="answer(false, false)">Neither</button>
      </template>
    </div>
    <ol v-if="reasons.length" class="reasons">
      <li v-for="one in reasons" :key="one.what" :class="{ sure: one.sure }">
        <strong>{{ one.what }}</strong> {{ one.mend }}
      </li>
    </ol>
  </template>
</template>

<style scoped>
.none {
  margin: 0;
}

.fine {
  color: var(--mint);
}

.row {
  flex-wrap: wrap;
}

.reasons {
  margin: 0;
  padding-left: 20px;
}

.sure strong {
  color: var(--marmalade);
}
</style>
