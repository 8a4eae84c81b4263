<script setup lang="ts">
import { computed } from 'vue'
import { markOf } from './marks'

const props = withDefaults(defineProps<{ of: string; size?: number }>(), { size: 18 })
const mark = computed(() => markOf(props.of))
</script>

<template>
  <svg :width="size" :height="size" viewBox="0 0 24 24" role="img" :aria-label="mark.name">
    <title>{{ mark.name }}</title>
    <path :d="mark.path" :fill="mark.colour" fill-rule="evenodd" />
  </svg>
</template>
