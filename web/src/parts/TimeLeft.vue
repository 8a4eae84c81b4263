<script setup lang="ts">
/** The time left until a moment. It counts down by itself, so that its surroundings needn't be redrawn. */
import { useLive } from '@/composables/useLive'
import { sayLeft } from '@/logic/duration'

/** `roughly` leaves out the tenths of a second, for estimates. */
defineProps<{ until: number; roughly?: boolean }>()
const live = useLive()
</script>

<template>
  <span>{{ sayLeft(until - live.now, roughly) }}</span>
</template>
