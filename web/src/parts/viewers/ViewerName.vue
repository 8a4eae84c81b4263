<script setup lang="ts">
/** A viewer's name. Pressed, their card opens. */
import { useViewerCard } from '@/composables/useViewerCard'

defineProps<{ id: string; name: string }>()
const card = useViewerCard()
</script>

<template>
  <button v-if="id" type="button" class="viewer-name" :title="`Who ${name} is`" @click.stop="card.open(id)">
    {{ name || 'a forgotten viewer' }}
  </button>
  <span v-else>{{ name }}</span>
</template>

<style scoped>
.viewer-name {
  max-width: 100%;
  padding: 0;
  overflow: hidden;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: pointer;
}

.viewer-name:hover {
  text-decoration: underline;
}
</style>
