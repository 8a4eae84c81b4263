<script setup lang="ts">
import { ElPopover } from 'element-plus'
import { useBook } from '@/composables/useBook'
import { sayCalls, sayLane, sayPace, sayText, sayWho } from '@/logic/sentence'
import { useDraft } from '../draft'
import EditCalls from './EditCalls.vue'
import EditLane from './EditLane.vue'
import EditPace from './EditPace.vue'
import EditText from './EditText.vue'
import EditWho from './EditWho.vue'

const book = useBook()
const { cue } = useDraft()
</script>

<template>
  <p v-if="cue && book.book" class="sentence">
    When
    <ElPopover role="dialog" aria-label="What calls it" trigger="click" width="400" placement="bottom-start">
      <template #reference
        ><button class="part" data-test="calls">{{ sayCalls(cue, book.book) }}</button></template
      >
      <EditCalls />
    </ElPopover>
    {{ ' ' }}
    <ElPopover role="dialog" aria-label="The text" trigger="click" width="360" placement="bottom-start">
      <template #reference
        ><button class="part" data-test="text">{{ sayText(cue) || 'with no text' }}</button></template
      >
      <EditText /> </ElPopover
    >,
    <ElPopover role="dialog" aria-label="Who may" trigger="click" width="420" placement="bottom-start">
      <template #reference
        ><button class="part" data-test="who">{{ sayWho(cue, book.book) }}</button></template
      >
      <EditWho />
    </ElPopover>
    may come in,
    <ElPopover role="dialog" aria-label="How often" trigger="click" width="360" placement="bottom-start">
      <template #reference
        ><button class="part" data-test="pace">{{ sayPace(cue, book.book) }}</button></template
      >
      <EditPace /> </ElPopover
    >, and
    <ElPopover role="dialog" aria-label="In which lane" trigger="click" width="420" placement="bottom-start">
      <template #reference
        ><button class="part" data-test="lane">{{ sayLane(cue, book.book) }}</button></template
      >
      <EditLane /> </ElPopover
    >.
  </p>
</template>

<style scoped>
.sentence {
  margin: 0;
  font: 500 18px/1.7 var(--display);
  color: var(--soft);
}

.part {
  font: italic 600 18px var(--display);
  color: var(--ink);
  background: none;
  border: 0;
  border-bottom: 2px dotted var(--marmalade);
  padding: 0 2px;
  cursor: pointer;
}

.part:hover {
  background: var(--raised);
}
</style>
