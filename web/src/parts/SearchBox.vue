<script setup lang="ts">
import { ElDialog } from 'element-plus'
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useBook } from '@/composables/useBook'
import { useTold } from '@/composables/useTold'
import { ROOMS } from '@/labels'
import OutputMark from './OutputMark.vue'

const open = defineModel<boolean>({ required: true })
const book = useBook()
const router = useRouter()
const told = useTold()
const text = ref('')
const chosen = ref(0)
const field = ref<HTMLInputElement>()

const hits = computed(() => {
  const wanted = text.value.trim().toLowerCase()
  const fits = (name: string): boolean => name.toLowerCase().includes(wanted)
  const cues = (book.book?.cues ?? []).filter((cue) => fits(cue.name) || cue.tags.some(fits))
  const rewards = (book.book?.rewards ?? []).filter((reward) => fits(reward.title))
  const media = book.media.filter((entry) => fits(entry.name))
  const lanes = (book.book?.lanes ?? []).filter((lane) => fits(lane.name))
  const counts = (book.book?.counts ?? []).filter((one) => fits(one.name))
  const pages = wanted ? ROOMS.filter((page) => fits(page.name) || page.words.some(fits)) : []
  return [
    ...pages.map((page) => ({ key: page.path, mark: 'cue', name: page.name, what: 'page', to: page.path })),
    ...lanes.map((lane) => ({
      key: `l${lane.id}`,
      mark: 'cue',
      name: lane.name,
      what: 'lane',
      to: '/lanes',
    })),
    ...counts.map((one) => ({
      key: `n${one.id}`,
      mark: 'count',
      name: one.name,
      what: 'count',
      to: '/counts',
    })),
    ...cues.map((cue) => ({
      key: `c${cue.id}`,
      mark: 'cue',
      name: cue.name,
      what: told.of(cue.id) || 'cue',
      to: `/cues/${cue.id}`,
    })),
    ...rewards.map((r) => {
      const cue = book.book?.cues.find((c) =>
        c.calls.some((call) => call.kind === 'reward' && call.reward === r.id),
      )
      return {
        key: `r${r.id}`,
        mark: 'reward',
        name: r.title,
        what: `reward, ${r.cost}`,
        to: cue ? `/cues/${cue.id}` : '/cues',
      }
    }),
    ...media.map((m) => ({
      key: `m${m.id}`,
      mark: m.kind || 'picture',
      name: m.name,
      what: 'media',
      to: `/media?open=${m.id}`,
    })),
  ].slice(0, 12)
})

watch(open, async (now) => {
  if (!now) return
  text.value = ''
  chosen.value = 0
  await nextTick()
  window.setTimeout(() => field.value?.focus(), 60)
})
watch(text, () => (chosen.value = 0))

function go(index: number): void {
  const hit = hits.value[index]
  if (!hit) return
  open.value = false
  void router.push(hit.to)
}

function onKey(event: KeyboardEvent): void {
  if (event.key === 'ArrowDown') chosen.value = Math.min(chosen.value + 1, hits.value.length - 1)
  else if (event.key === 'ArrowUp') chosen.value = Math.max(0, chosen.value - 1)
  else if (event.key === 'Enter') go(chosen.value)
  else return
  event.preventDefault()
}
</script>

<template>
  <ElDialog append-to="#over" title="Search" v-model="open" :show-close="false" width="520" top="12vh">
    <input
      ref="field"
      v-model="text"
      class="well"
      placeholder="Cues, rewards, media, lanes, pages"
      aria-label="Search"
      @keydown="onKey"
    />
    <ul class="hits">
      <li v-for="(hit, i) in hits" :key="hit.key">
        <button class="hit" :class="{ on: i === chosen }" @click="go(i)">
          <OutputMark :of="hit.mark" /><span class="grow cut-off">{{ hit.name }}</span
          ><span class="soft small">{{ hit.what }}</span>
        </button>
      </li>
    </ul>
    <p v-if="!hits.length" class="soft">No matches.</p>
  </ElDialog>
</template>

<style scoped>
.hits {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}

.hit {
  display: flex;
  gap: 10px;
  align-items: center;
  width: 100%;
  padding: 8px 10px;
  text-align: left;
  background: none;
  border: 0;
  border-radius: 8px;
  cursor: pointer;
}

.hit.on,
.hit:hover {
  background: var(--ground);
}
</style>
