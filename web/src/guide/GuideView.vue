<script setup lang="ts">
/** The guide, opened at the page for a path of the app; its list, and a search through all pages. */
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { belongsTo, pageOf, pages, searched, type Hit } from './pages'

const props = defineProps<{ path: string }>()
const at = ref(belongsTo(props.path))
const text = ref('')
const body = useTemplateRef('body')
const page = computed(() => pageOf(at.value))
const guide = pages.filter((one) => one.id.startsWith('guide/'))
const hits = computed(() => (text.value.trim() ? searched(text.value) : []))

async function open(id: string, anchor = ''): Promise<void> {
  at.value = id
  text.value = ''
  await nextTick()
  const there = anchor ? body.value?.querySelector(`[id="${CSS.escape(anchor)}"]`) : body.value
  there?.scrollIntoView({ block: 'start' })
}

function follow(event: Event): void {
  const link = (event.target as HTMLElement).closest<HTMLElement>('a[data-page]')
  if (!link) return
  event.preventDefault()
  void open(link.dataset.page ?? '', link.dataset.anchor)
}

const key = (hit: Hit): string => `${hit.page}#${hit.anchor}`
watch(
  () => props.path,
  (path) => void open(belongsTo(path)),
)
</script>

<!-- eslint-disable vue/no-v-html -- the pages are our own docs, rendered when the app is built -->
<template>
  <div class="guide">
    <input
      v-model="text"
      class="well"
      type="search"
      placeholder="Search the guide"
      aria-label="Search the guide"
    />
    <nav v-if="text.trim()" class="hits" aria-label="Results">
      <button v-for="hit in hits" :key="key(hit)" class="hit" @click="open(hit.page, hit.anchor)">
        <strong>{{ hit.heading }}</strong>
        <span v-if="hit.heading !== hit.title" class="soft small">{{ hit.title }}</span>
      </button>
      <p v-if="!hits.length" class="soft">No matching pages.</p>
    </nav>
    <template v-else>
      <article
        v-if="page"
        ref="body"
        class="page"
        data-test="guide-page"
        @click="follow"
        v-html="page.html"
      ></article>
      <nav class="list" aria-label="All pages">
        <button
          v-for="one in guide"
          :key="one.id"
          class="btn tiny"
          :class="{ main: one.id === at }"
          @click="open(one.id)"
        >
          {{ one.title }}
        </button>
      </nav>
    </template>
  </div>
</template>

<style scoped>
.guide {
  display: grid;
  gap: 16px;
}

.hits {
  display: grid;
  gap: 4px;
}

.hit {
  display: grid;
  justify-items: start;
  padding: 8px 12px;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: none;
  color: inherit;
  font: inherit;
  text-align: start;
  cursor: pointer;
}

.hit:hover {
  background: var(--raised);
}

.list {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding-top: 12px;
  border-top: 1px solid var(--line);
}

.page {
  line-height: 1.55;
  overflow-wrap: break-word;
}

.page :deep(h1) {
  margin: 0 0 8px;
}

.page :deep(h2) {
  margin: 24px 0 8px;
}

.page :deep(img) {
  max-width: 100%;
  border: 1px solid var(--line);
  border-radius: 8px;
}

.page :deep(pre) {
  padding: 10px 14px;
  border-radius: 8px;
  background: var(--ground);
  overflow-x: auto;
}

.page :deep(table) {
  width: 100%;
  border-collapse: collapse;
}

.page :deep(th),
.page :deep(td) {
  padding: 6px 8px;
  border-bottom: 1px solid var(--line);
  text-align: start;
  vertical-align: top;
}

.page :deep(a) {
  color: var(--sky);
}

.page :deep(blockquote) {
  margin: 8px 0;
  padding-inline-start: 12px;
  border-inline-start: 3px solid var(--marmalade);
}
</style>
