<script setup lang="ts">
/** What doesn't work at the moment and its consequences for the show; hidden while all is well. */
import { computed } from 'vue'
import { useLive } from '@/composables/useLive'
import { sayTime } from '@/logic/words'

const live = useLive()
const troubles = computed(() => live.state?.wrong.troubles ?? [])
</script>

<template>
  <div v-if="troubles.length" class="troubles" role="alert" data-test="troubles">
    <p v-for="trouble in troubles" :key="trouble.what">
      <strong>{{ trouble.what }}</strong> {{ trouble.means }}
      <span class="since">since {{ sayTime(trouble.since) }}</span>
    </p>
  </div>
</template>

<style scoped>
.troubles {
  padding: 8px 16px;
  border-left: 8px solid var(--berry);
  background: var(--surface);
  border-bottom: 1px solid var(--line);
}

p {
  margin: 0;
  font-size: 16px;
}

strong {
  color: var(--berry);
}

.since {
  color: var(--soft);
  white-space: nowrap;
}
</style>
