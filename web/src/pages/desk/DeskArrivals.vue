<script setup lang="ts">
import { computed, ref } from 'vue'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { useReasons } from '@/composables/useReasons'
import { sayTime, sayVerdict } from '@/logic/words'
import TraceList from '@/parts/TraceList.vue'

const live = useLive()
const book = useBook()
const reasons = useReasons()
const open = ref<number | null>(null)

const names = computed(() => new Map((book.book?.cues ?? []).map((cue) => [cue.id, cue.name])))
const titles = computed(() => new Map((book.book?.rewards ?? []).map((reward) => [reward.id, reward.title])))

function tone(verdict: string, outcome: string): string {
  if (outcome === 'refunded' || verdict === 'turned_away') return 'no'
  return verdict === 'ignored' ? 'plain' : 'yes'
}
</script>

<template>
  <section class="card">
    <div class="card-title"><h2>Arrivals</h2></div>
    <p v-if="!live.lines.length" class="soft">Every call shows here, with what became of it and why.</p>
    <ul>
      <li v-for="line in live.lines" :key="line.id" :class="tone(line.verdict, line.outcome)">
        <button
          class="line"
          :aria-expanded="open === line.id"
          @click="open = open === line.id ? null : line.id"
        >
          <span class="sign" aria-hidden="true">{{
            { yes: '●', no: '✕', plain: '○' }[tone(line.verdict, line.outcome)]
          }}</span>
          <span class="grow">
            <span class="row">
              <strong class="grow cut-off">{{
                line.viewer_name || (line.kind === 'pad' ? 'Pad' : line.kind === 'try' ? 'Try' : line.kind)
              }}</strong>
              <span class="soft small">{{ sayTime(line.at) }}</span>
            </span>
            <span class="cut-off block"
              >{{ names.get(line.cue) ?? titles.get(line.reward) ?? line.reward
              }}<template v-if="line.text">: “{{ line.text }}”</template></span
            >
            <span class="verdict small">{{ sayVerdict(line, reasons) }}</span>
          </span>
        </button>
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
  border-top: 1px solid var(--line);
  padding: 6px 0;
}

.line {
  display: flex;
  gap: 8px;
  width: 100%;
  padding: 0;
  text-align: left;
  background: none;
  border: 0;
  cursor: pointer;
}

.block,
.verdict {
  display: block;
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
