<script setup lang="ts">
/** The frame of a stand-in's window: its name, its kind, and its problems. */
import OutputMark from '@/parts/OutputMark.vue'

defineProps<{ name: string; mark: string; note?: string; problem: string }>()
</script>

<template>
  <div class="window">
    <header class="row">
      <OutputMark :of="mark" :size="26" />
      <h1>{{ name }}</h1>
      <span class="soft">{{ note ?? 'a stand-in; what you do here is your own hand' }}</span>
      <span class="grow"></span>
      <span v-if="problem" class="wrong">{{ problem }}</span>
    </header>
    <main><slot /></main>
  </div>
</template>

<style scoped>
.window {
  max-width: 1000px;
  margin: 0 auto;
  padding: 16px 20px;
}

main {
  display: grid;
  gap: 14px;
  margin-top: 12px;
}

.wrong {
  color: var(--berry);
}
</style>
