<script setup lang="ts">
/** Gear: offers what answers on this computer; the rest is on the Rig page. */
import { computed, onMounted, ref, shallowRef } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useGear } from '@/composables/useGear'
import { useLive } from '@/composables/useLive'
import { attempt } from '@/composables/useSay'
import OutputMark from '@/parts/OutputMark.vue'

type Found = Schemas['GearFoundOut']
const book = useBook()
const live = useLive()
const all = useGear()
const found = shallowRef<Found[] | null>(null)
const busy = ref(false)
const there = computed(() => (live.state?.gear ?? []).filter((one) => one.kind !== 'channel'))
const WORDS = { in_step: 'in sync', catching_up: 'catching up', away: 'disconnected', off: 'off' } as const

async function look(): Promise<void> {
  busy.value = true
  found.value = (await attempt(() => got(api.GET('/api/gear-found')))) ?? []
  busy.value = false
}

async function add(one: Found): Promise<void> {
  await attempt(() => book.edit(() => got(api.POST('/api/gear-found', { body: { kind: one.kind } }))))
  await all.load()
  await look()
}
onMounted(look)
</script>

<template>
  <ul v-if="there.length" class="list">
    <li v-for="one in there" :key="one.id" class="row">
      <OutputMark :of="all.kindOf(one.kind).mark" :size="18" /><strong>{{ one.name }}</strong>
      <span :class="one.state">{{ WORDS[one.state] }}</span>
      <span v-if="one.problem" class="soft small">{{ one.problem }}</span>
      <RouterLink v-if="one.state !== 'in_step'" to="/rig" class="small">Set it up</RouterLink>
    </li>
  </ul>
  <p v-if="busy" class="soft none">Looking for gear on this computer…</p>
  <template v-else-if="found?.length">
    <p class="none">Found on this computer:</p>
    <div class="row wrap">
      <button
        v-for="one in found"
        :key="one.kind"
        class="btn"
        :data-test="`found-${one.kind}`"
        @click="add(one)"
      >
        <OutputMark :of="one.mark" :size="18" />Add {{ one.title.toLowerCase() }}
      </button>
    </div>
  </template>
  <p v-else class="soft none">
    Nothing {{ there.length ? 'else' : '' }} found at the usual addresses. Set up gear elsewhere on the
    <RouterLink to="/rig">Rig page</RouterLink>.
  </p>
  <div class="row">
    <button class="btn tiny" :disabled="busy" @click="look">Look again</button>
  </div>
</template>

<style scoped>
.list {
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 4px;
}

.none {
  margin: 0;
}

.wrap {
  flex-wrap: wrap;
}

.in_step {
  color: var(--mint);
}

.away {
  color: var(--berry);
}
</style>
