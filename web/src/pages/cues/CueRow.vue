<script setup lang="ts">
import { ElCheckbox, ElSwitch } from 'element-plus'
import { computed } from 'vue'
import type { Cue, Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { useTold } from '@/composables/useTold'
import { attempt } from '@/composables/useSay'
import { outputOf } from '@/parts/marks'
import { posterOf } from '@/logic/choices'
import OutputMark from '@/parts/OutputMark.vue'

const props = defineProps<{ cue: Cue; snags: Schemas['SnagOut'][] }>()
const picked = defineModel<boolean>({ required: true })
const worst = computed(() => props.snags.find((s) => s.grade === 'error') ?? props.snags[0])
const book = useBook()
const live = useLive()
const told = useTold()
const outputs = computed(() => [...new Set(props.cue.beats.map((beat) => outputOf(beat.kind)))])
const poster = computed(() => posterOf(props.cue, book.mediaById, book.book?.jars))
</script>

<template>
  <li class="cue card" :class="{ off: !cue.on }">
    <ElCheckbox v-model="picked" :aria-label="`Pick ${cue.name}`" data-test="pick" />
    <RouterLink :to="`/cues/${cue.id}`" class="link">
      <span class="poster"
        ><img v-if="poster" :src="poster" alt="" /><OutputMark v-else :of="outputs[0] ?? 'cue'" :size="28"
      /></span>
      <span class="grow">
        <span class="row">
          <strong class="name">{{ cue.name }}</strong>
          <span v-if="live.runningCues.has(cue.id)" class="lamp" title="Running"></span>
          <OutputMark v-for="output in outputs" :key="output" :of="output" />
          <span
            v-if="worst"
            class="snag small cut-off"
            :class="worst.grade"
            :title="snags.map((s) => s.what).join(' ')"
            >{{ worst.grade === 'error' ? '✕' : '▲' }} {{ worst.what }}</span
          >
          <span v-for="tag in cue.tags" :key="tag" class="tag small">{{ tag }}</span>
        </span>
        <span class="block does" data-test="does">{{ told.of(cue.id) }}</span>
        <span class="soft small block cut-off">{{ told.cue(cue.id)?.brief }}</span>
      </span>
    </RouterLink>
    <ElSwitch
      :model-value="cue.on"
      :aria-label="`${cue.name} on`"
      @update:model-value="(on) => attempt(() => book.put('cues', { ...cue, on: Boolean(on) }))"
    />
  </li>
</template>

<style scoped>
.cue {
  display: flex;
  align-items: center;
  gap: 16px;
  padding: 8px 20px 8px 10px;
}

.link {
  display: flex;
  flex: 1;
  min-width: 0;
  gap: 14px;
  align-items: center;
  color: inherit;
  text-decoration: none;
}

.link .grow {
  min-width: 0;
}

.poster {
  flex: none;
  display: grid;
  place-items: center;
  width: 56px;
  height: 48px;
  background: var(--ground);
  border-radius: 6px;
  overflow: hidden;
}

.poster img {
  max-width: 100%;
  max-height: 100%;
}

.name {
  font: 640 18px var(--display);
}

.block {
  display: block;
}

.lamp {
  width: 10px;
  height: 10px;
  border-radius: 50%;
  background: var(--mint);
}

.snag {
  color: var(--marmalade);
  max-width: 380px;
}

.snag.error {
  color: var(--berry);
}

.off .link {
  opacity: 0.55;
}

.tag {
  padding: 0 8px;
  border: 1px solid var(--line);
  border-radius: 10px;
  color: var(--soft);
}

@media (max-width: 760px) {
  .cue {
    gap: 8px;
    padding-right: 10px;
  }

  .link {
    align-items: start;
    gap: 8px;
  }

  .link .row {
    flex-wrap: wrap;
    row-gap: 2px;
  }

  .block.cut-off {
    white-space: normal;
  }
}
</style>
