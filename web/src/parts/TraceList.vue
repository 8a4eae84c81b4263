<script setup lang="ts">
import type { LedgerLine } from '@/api/client'
import { DOOR_CHECKS } from '@/api/kinds'
import { useReasons } from '@/composables/useReasons'
import DrawAgain from './DrawAgain.vue'

defineProps<{ line: LedgerLine }>()
const reasons = useReasons()
function sayNote(note: Record<string, unknown>): string {
  switch (note.what) {
    case 'start':
      return 'started'
    case 'finish':
      return note.as ? `finished: ${note.as}` : 'finished'
    case 'drop':
      return `dropped: ${note.as === 'stale' ? 'waited too long' : 'by hand'}`
    case 'fail':
      return note.why ? `${note.beat}: ${note.why}` : 'failed'
    case 'won':
      return note.name ? `${note.name} won: ${note.prize}` : 'a forgotten viewer won'
    case 'draw':
      if (note.seed)
        return `${note.beat} drew a viewer among ${note.among ?? (note.weights as unknown[]).length}`
      return note.drawn ? `${note.beat} drew ${(note.drawn as string[]).join(', ')} from ${note.jar}` : 'drew'
    case 'roll':
      if (!note.faces) return 'rolled'
      if (!(note.faces as number[]).length) return `${note.beat}: ${note.outcome}`
      return `${note.beat} rolled ${(note.faces as number[]).join(' ')}: ${note.outcome}`
    default:
      return String(note.what)
  }
}
</script>

<template>
  <div class="trace small">
    <p v-if="!line.trace.length" class="soft">The door wasn’t checked.</p>
    <ul v-else>
      <li v-for="check in line.trace" :key="check.check" :class="{ no: !check.passed }">
        <span class="sign" aria-hidden="true">{{ check.passed ? '✓' : '✕' }}</span>
        <span>{{ DOOR_CHECKS[check.check] ?? check.check }}</span>
        <span class="soft">{{
          check.passed ? check.detail : [reasons[check.reason ?? ''], check.detail].filter(Boolean).join(', ')
        }}</span>
      </li>
    </ul>
    <p v-for="(note, i) in line.notes" :key="i" class="note">
      {{ sayNote(note) }}
      <DrawAgain v-if="note.what === 'draw' && note.seed" :run="line.run" :beat="String(note.beat)" />
    </p>
  </div>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 2px;
}

li {
  display: grid;
  grid-template-columns: 16px 150px 1fr;
  gap: 6px;
}

.sign {
  color: var(--mint);
  font-weight: 700;
}

.no,
.no .sign,
.no .soft {
  color: var(--berry);
}

.note {
  margin: 4px 0 0 22px;
}
</style>
