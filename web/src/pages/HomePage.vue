<script setup lang="ts">
/** The start page: the desk; for an empty book opening night. */
import { useRouter } from 'vue-router'
import { useBook } from '@/composables/useBook'

const book = useBook()
void useRouter().replace(book.book?.cues.length ? '/desk' : '/opening')
</script>

<template><span></span></template>
