<script setup lang="ts">
/** A combination of keys as caps. */
import { computed } from 'vue'
import { sayKeys } from '@/logic/words'

const props = defineProps<{ combo: string; on?: boolean }>()
const caps = computed(() => sayKeys(props.combo).split('+'))
</script>

<template>
  <span class="caps" :class="{ on }"
    ><kbd v-for="(cap, i) in caps" :key="i">{{ cap }}</kbd></span
  >
</template>

<style scoped>
.caps {
  display: inline-flex;
  gap: 4px;
}

kbd {
  font: 700 13px var(--text);
  padding: 3px 9px;
  background: var(--raised);
  border: 1px solid var(--line);
  border-bottom-width: 3px;
  border-radius: 5px;
}

.on kbd {
  background: var(--marmalade);
  color: var(--ground);
}
</style>
