<script setup lang="ts">
/** Every earlier version of the book, by day; the shown one is marked. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { dayOf, timeOf, ORIGINS } from '@/logic/review'

type Before = Schemas['BookBefore']
const props = defineProps<{ books: Before[]; chosen: number | null }>()
const emit = defineEmits<{ choose: [id: number] }>()
const days = computed(() => {
  const now = Date.now()
  const parted: { day: string; books: Before[] }[] = []
  for (const one of props.books) {
    const day = dayOf(one.at, now)
    if (parted.at(-1)?.day !== day) parted.push({ day, books: [] })
    parted.at(-1)?.books.push(one)
  }
  return parted
})
</script>

<template>
  <section aria-label="Versions" tabindex="0">
    <h2>Versions</h2>
    <template v-for="part in days" :key="part.day">
      <h3 class="soft">{{ part.day }}</h3>
      <button
        v-for="one in part.books"
        :key="one.id"
        class="before"
        :class="{ on: one.id === chosen, undone: one.undone }"
        :aria-pressed="one.id === chosen"
        :data-test="`book-${one.id}`"
        @click="emit('choose', one.id)"
      >
        <span class="time">{{ timeOf(one.at) }}</span>
        <span class="what">{{ one.what }}</span>
        <span class="soft small">{{
          one.now ? 'current' : one.undone ? 'undone' : one.origin === 'page' ? '' : ORIGINS[one.origin]
        }}</span>
      </button>
    </template>
  </section>
</template>

<style scoped>
h3 {
  margin: 8px 0 2px;
  font-size: 14px;
}

.before {
  display: grid;
  grid-template-columns: 76px minmax(0, 1fr) auto;
  gap: 8px;
  align-items: baseline;
  padding: 6px 10px;
  border: 1px solid transparent;
  border-radius: 8px;
  background: none;
  text-align: left;
  cursor: pointer;
}

.before:hover {
  background: var(--surface);
}

.before.on {
  border-color: var(--marmalade);
  background: var(--raised);
}

.time {
  font: 600 15px var(--display);
}

.what {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  line-clamp: 2;
  overflow: hidden;
  overflow-wrap: anywhere;
}

.undone .what {
  color: var(--soft);
  text-decoration: line-through;
}
</style>
