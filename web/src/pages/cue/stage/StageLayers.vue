<script setup lang="ts">
/** The order of items, topmost first; a press selects one, its arrows move it up or down. */
import { ElPopover } from 'element-plus'
import { computed } from 'vue'
import type { AnyBeat } from '@/api/client'
import OutputMark from '@/parts/OutputMark.vue'
import { useDraft } from '../draft'

const props = defineProps<{ seen: AnyBeat[] }>()
const draft = useDraft()
const layerOf = (beat: AnyBeat): number => Number(beat.layer ?? 0)
const rows = computed(() =>
  props.seen
    .map((beat, at) => ({ beat, at }))
    .sort((a, b) => layerOf(b.beat) - layerOf(a.beat) || b.at - a.at)
    .map((row) => row.beat),
)

/** Numbers all layers again, from the bottom, with two of them swapped. */
function move(index: number, by: number): void {
  const order = [...rows.value]
  const [moved] = order.splice(index, 1)
  if (!moved) return
  order.splice(index + by, 0, moved)
  order.reverse().forEach((beat, layer) => draft.change(beat.id, { layer }))
}
</script>

<template>
  <ElPopover
    :persistent="false"
    v-if="rows.length > 1"
    trigger="click"
    width="280"
    placement="top"
    role="dialog"
    aria-label="Layers"
  >
    <template #reference><button class="btn tiny" data-test="layers">Layers</button></template>
    <ol class="layers">
      <li v-for="(beat, i) in rows" :key="beat.id" :class="{ on: draft.chosen.value === beat.id }">
        <button class="pick cut-off" @click="draft.choose(beat.id, false)">
          <OutputMark :of="beat.kind" :size="14" />{{ beat.id }}
        </button>
        <button class="btn bare tiny" :disabled="!i" :aria-label="`Move ${beat.id} up`" @click="move(i, -1)">
          ↑
        </button>
        <button
          class="btn bare tiny"
          :disabled="i === rows.length - 1"
          :aria-label="`Move ${beat.id} down`"
          @click="move(i, 1)"
        >
          ↓
        </button>
      </li>
    </ol>
  </ElPopover>
</template>

<style scoped>
.layers {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 320px;
  overflow: auto;
}

li {
  display: flex;
  align-items: center;
}

.on {
  background: var(--raised);
}

.pick {
  flex: 1;
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 4px 6px;
  background: none;
  border: 0;
  text-align: left;
  cursor: pointer;
}
</style>
