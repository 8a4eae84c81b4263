<script setup lang="ts">
/** The cue's sentence: the server writes it, and each part that can be set is a button. */
import { ElPopover } from 'element-plus'
import { computed, type Component } from 'vue'
import type { Schemas } from '@/api/client'
import { useDraft } from '../draft'
import EditCalls from './EditCalls.vue'
import EditLane from './EditLane.vue'
import EditPace from './EditPace.vue'
import EditText from './EditText.vue'
import EditWho from './EditWho.vue'

type Kind = Schemas['SaidOut']['kind']
const EDITORS: Partial<Record<Kind, { title: string; width: number; at: Component }>> = {
  calls: { title: 'Calls', width: 400, at: EditCalls },
  who: { title: 'Who and when', width: 420, at: EditWho },
  text: { title: 'Text', width: 360, at: EditText },
  pace: { title: 'Cooldown and limits', width: 360, at: EditPace },
  lane: { title: 'Lane', width: 420, at: EditLane },
}
const { cue, told } = useDraft()
const parts = computed(() => told.value?.said ?? [])
</script>

<template>
  <p v-if="cue" class="sentence">
    <template v-for="part in parts" :key="part.kind + (EDITORS[part.kind] ? '' : part.words)">
      <ElPopover
        v-if="EDITORS[part.kind]"
        :persistent="false"
        role="dialog"
        :aria-label="EDITORS[part.kind]?.title"
        trigger="click"
        :width="EDITORS[part.kind]?.width"
        placement="bottom-start"
      >
        <template #reference
          ><button class="part" :data-test="part.kind" :title="EDITORS[part.kind]?.title">
            {{ part.words }}
          </button></template
        >
        <component :is="EDITORS[part.kind]?.at" />
      </ElPopover>
      <template v-else>{{ part.words }}</template>
    </template>
  </p>
</template>

<style scoped>
.sentence {
  margin: 0;
  /* Two lines, so that nothing moves when the words come. */
  min-height: 61px;
  font: 500 18px/1.7 var(--display);
  color: var(--soft);
  white-space: pre-wrap;
}

.part {
  font: italic 600 18px var(--display);
  color: var(--ink);
  background: none;
  border: 0;
  border-bottom: 2px dotted var(--marmalade);
  padding: 0 2px;
  text-align: start;
  cursor: pointer;
}

.part:hover {
  background: var(--raised);
}
</style>
