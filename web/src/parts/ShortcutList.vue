<script setup lang="ts">
/** All keys. */
import { PAGES } from '@/labels'

const KEYS: [string, string][] = [
  ['Shift + Escape', 'All to rest'],
  ['Ctrl + Z', 'Undo'],
  ['Ctrl + Shift + Z', 'Redo'],
  ['/', 'Search cues, rewards, media'],
  ['?', 'Help for this page'],
  ['Q to P', 'On the desk: the first ten pads. Keep the key down to hold one'],
  ['N', 'On Rewards: new reward. D: tickets or list. Alt + arrows: move it'],
  ['`', 'Keep it down to speak a phrase'],
  ['Shift + Space', 'In a cue: try it on air'],
  ['Arrows', 'In a cue: move the selected beat in time. With Alt: on the stage'],
  ['Delete', 'In a cue: remove the selected beat'],
  ['← →', 'In a night: 5 s, with Shift 1 min. + − 0: zoom in, out, whole night'],
]
</script>

<template>
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
