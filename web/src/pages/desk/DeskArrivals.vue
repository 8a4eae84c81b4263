<script setup lang="ts">
import { useInfiniteScroll } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { arrivals, callerOf, toneOf, type Wanted } from '@/logic/arrivals'
import { sayClock } from '@/logic/words'
import TraceList from '@/parts/TraceList.vue'
import ViewerName from '@/parts/viewers/ViewerName.vue'

const live = useLive()
const book = useBook()
const open = ref<number | null>(null)

const names = computed(() => new Map((book.book?.cues ?? []).map((cue) => [cue.id, cue.name])))
const titles = computed(() => new Map((book.book?.rewards ?? []).map((reward) => [reward.id, reward.title])))

const WANTED: [Wanted, string][] = [
  ['all', 'All'],
  ['in', 'Let in'],
  ['away', 'Refused'],
]
const wanted = ref<Wanted>('all')
const all = computed(() => arrivals(live.lines, wanted.value))

/** A glance needs the newest; the rest is drawn on scrolling. */
const AT_FIRST = 24
const shown = ref(AT_FIRST)
const rows = computed(() => all.value.slice(0, shown.value))
const card = useTemplateRef('card')
useInfiniteScroll(card, () => void (shown.value += AT_FIRST), {
  distance: 200,
  interval: 60,
  canLoadMore: () => shown.value < all.value.length,
})
</script>

<template>
  <section ref="card" class="card">
    <div class="card-title">
      <h2 class="grow">Arrivals</h2>
      <div class="row" role="group" aria-label="Filter arrivals">
        <button
          v-for="[which, said] in WANTED"
          :key="which"
          class="btn bare tiny filter"
          :aria-pressed="wanted === which"
          @click="wanted = which"
        >
          {{ said }}
        </button>
      </div>
    </div>
    <p v-if="!rows.length" class="soft">
      {{
        live.lines.length
          ? 'None of the latest calls match.'
          : 'Every call appears here with its result and the reason.'
      }}
    </p>
    <ul>
      <li v-for="{ line, times } in rows" :key="line.id" :class="toneOf(line)">
        <span class="sign" aria-hidden="true">{{ { yes: '●', no: '✕', plain: '○' }[toneOf(line)] }}</span>
        <div class="grow">
          <div class="row">
            <strong v-if="line.viewer" class="name grow cut-off"
              ><ViewerName :id="line.viewer" :name="line.viewer_name"
            /></strong>
            <strong v-else class="grow cut-off">{{ callerOf(line) }}</strong>
            <strong v-if="times > 1" class="times" :title="`${times} times at once`">×{{ times }}</strong>
            <span class="soft small">{{ sayClock(line.at) }}</span>
          </div>
          <button
            class="line"
            :aria-expanded="open === line.id"
            @click="open = open === line.id ? null : line.id"
          >
            <span class="cut-off what">
              {{ names.get(line.cue) ?? titles.get(line.reward) ?? line.reward
              }}<template v-if="line.text">: “{{ line.text }}”</template>
            </span>
            <span class="verdict small cut-off" :title="line.said">{{ line.said }}</span>
          </button>
        </div>
        <TraceList v-if="open === line.id" :line="line" />
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
  border-top: 1px solid var(--line);
  padding: 4px 0;
}

li > :last-child:not(.grow) {
  flex-basis: 100%;
}

.card-title {
  align-items: center;
}

.filter[aria-pressed='true'] {
  color: var(--marmalade);
  font-weight: 700;
}

.name {
  color: inherit;
  font-weight: 700;
  text-decoration: none;
}

.name:hover {
  text-decoration: underline;
}

.times {
  color: var(--marmalade);
}

.line {
  display: flex;
  gap: 8px;
  align-items: baseline;
  width: 100%;
  color: inherit;
  font: inherit;
  padding: 0;
  text-align: left;
  background: none;
  border: 0;
  cursor: pointer;
}

.what {
  max-width: 60%;
}

.verdict {
  flex: 1;
  min-width: 0;
  text-align: right;
}

.yes .sign,
.yes .verdict {
  color: var(--mint);
}

.no .sign,
.no .verdict {
  color: var(--berry);
}

.plain .sign,
.plain .verdict {
  color: var(--soft);
}
</style>
