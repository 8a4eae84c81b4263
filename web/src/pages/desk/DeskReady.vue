<script setup lang="ts">
/** Before going on air: what wouldn't work tonight, each with the page to fix it. */
import { ElPopover } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'

const book = useBook()
const live = useLive()
const rows = shallowRef<Schemas['ConcernOut'][]>([])
const asked = ref(false)

async function ask(): Promise<void> {
  rows.value = await got(api.GET('/api/readiness')).catch(() => rows.value)
  asked.value = true
}
/** Fetched again when something relevant changed. */
const signs = computed(() =>
  JSON.stringify([
    book.version,
    live.state?.gear.map((one) => one.state),
    live.state?.overlays.map((one) => [one.pages, one.told.map((page) => page.blocked)]),
    live.state?.wrong.troubles.length,
  ]),
)
let timer = 0
watch(
  signs,
  () => {
    window.clearTimeout(timer)
    timer = window.setTimeout(() => void ask(), 400)
  },
  { immediate: true },
)
const wrong = computed(() => rows.value.filter((row) => row.grade === 'error').length)
const said = computed(() => {
  if (!asked.value) return 'looking…'
  if (!rows.value.length) return 'all is ready'
  return wrong.value
    ? `${wrong.value} ${wrong.value === 1 ? 'problem' : 'problems'}`
    : `${rows.value.length} ${rows.value.length === 1 ? 'warning' : 'warnings'}`
})
</script>

<template>
  <ElPopover
    :persistent="false"
    role="dialog"
    aria-label="Ready?"
    trigger="click"
    :width="460"
    placement="top"
    @show="ask"
  >
    <template #reference>
      <button class="btn ready" :class="{ wrong, fine: asked && !rows.length }" data-test="ready">
        Ready?<span class="small">{{ said }}</span>
      </button>
    </template>
    <p v-if="!rows.length" class="none fine">Everything is ready for tonight.</p>
    <ul v-else aria-label="Before going on air">
      <li v-for="row in rows" :key="row.what" :class="row.grade" :data-check="row.check">
        <strong>{{ row.what }}</strong>
        <RouterLink :to="row.page">{{ row.mend }}</RouterLink>
      </li>
    </ul>
  </ElPopover>
</template>

<style scoped>
.ready .small {
  color: var(--marmalade);
}

.ready.wrong .small {
  color: var(--berry);
}

.ready.fine .small,
.fine {
  color: var(--mint);
}

.none {
  margin: 0;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
  max-height: 50vh;
  overflow: auto;
}

li {
  display: grid;
  padding-left: 10px;
  border-left: 4px solid var(--marmalade);
}

.error {
  border-color: var(--berry);
}

a {
  color: var(--soft);
}
</style>
