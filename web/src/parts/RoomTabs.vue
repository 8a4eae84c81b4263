<script setup lang="ts">
/** The sub-pages of a page, as tabs above it. Pages without any have none, and neither has a cue that is being edited. */
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { roomsOf } from '@/labels'

const route = useRoute()
const rooms = computed(() => roomsOf(route.path))
</script>

<template>
  <nav v-if="rooms.length" class="rooms" aria-label="Rooms of this page">
    <RouterLink
      v-for="room in rooms"
      :key="room.path"
      :to="room.path"
      class="room"
      :class="{ on: route.path.startsWith(room.path) }"
      :data-test="`room-${room.path.slice(1)}`"
      >{{ room.name }}</RouterLink
    >
  </nav>
</template>

<style scoped>
.rooms {
  display: flex;
  gap: 4px;
  padding: 6px 20px 0;
  overflow-x: auto;
}

.room {
  padding: 3px 12px;
  border-bottom: 3px solid transparent;
  color: var(--soft);
  text-decoration: none;
  white-space: nowrap;
}

.room:hover {
  color: var(--ink);
}

.room.on {
  color: var(--ink);
  border-color: var(--marmalade);
}

@media (max-width: 600px) {
  .rooms {
    padding: 4px 8px 0;
  }
}
</style>
