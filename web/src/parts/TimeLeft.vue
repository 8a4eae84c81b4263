<script setup lang="ts">
/** The time that is left until a moment. It counts down by itself, so that what is around it need not be drawn anew. */
import { useLive } from '@/composables/useLive'
import { sayLeft } from '@/logic/duration'

/** `roughly` leaves out the tenths of a second, for moments that are a guess. */
defineProps<{ until: number; roughly?: boolean }>()
const live = useLive()
</script>

<template>
  <span>{{ sayLeft(until - live.now, roughly) }}</span>
</template>
