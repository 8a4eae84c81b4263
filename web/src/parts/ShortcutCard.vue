<script setup lang="ts">
import { ElDialog } from 'element-plus'
import { PAGES } from '@/labels'

const open = defineModel<boolean>({ required: true })
const KEYS: [string, string][] = [
  ['Shift + Escape', 'All to rest'],
  ['Ctrl + Z', 'Undo'],
  ['Ctrl + Shift + Z', 'Do again'],
  ['/', 'Search cues, rewards, media'],
  ['?', 'This card'],
  ['Q to P', 'On the desk: the first ten pads; held down what can be held'],
  ['N', 'On Rewards: a new one; D: tickets or a list; Alt with arrows: its place'],
  ['Shift + Space', 'In a cue: try it on air'],
  ['Arrows', 'In a cue: move the chosen beat in time; with Alt on the stage'],
  ['Delete', 'In a cue: remove the chosen beat'],
  ['← →', 'In a night: 5 s, with Shift a minute; + − 0: nearer, farther, the whole'],
]
</script>

<template>
  <ElDialog append-to="#over" v-model="open" title="Shortcuts" width="520">
    <dl class="keys">
      <template v-for="[key, what] in KEYS" :key="key">
        <dt>
          <kbd>{{ key }}</kbd>
        </dt>
        <dd>{{ what }}</dd>
      </template>
      <template v-for="(page, i) in PAGES" :key="page.path">
        <dt>
          <kbd>{{ (i + 1) % 10 }}</kbd>
        </dt>
        <dd>{{ page.name }}</dd>
      </template>
    </dl>
    <template #footer>
      <RouterLink class="btn" to="/opening" data-test="to-opening" @click="open = false"
        >Opening night: from the start</RouterLink
      >
    </template>
  </ElDialog>
</template>

<style scoped>
.keys {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 8px 16px;
  margin: 0;
}

dd {
  margin: 0;
}

kbd {
  font: inherit;
  font-weight: 700;
  padding: 2px 8px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--ground);
}
</style>
