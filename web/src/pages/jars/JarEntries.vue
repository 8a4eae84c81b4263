<script setup lang="ts">
import { ElCheckbox } from 'element-plus'
import type { Book, Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import OutputMark from '@/parts/OutputMark.vue'
import NumberField from '@/parts/NumberField.vue'

type Jar = Book['jars'][number]

const props = defineProps<{ jar: Jar; odds: Schemas['Odds'] | null }>()
const emit = defineEmits<{ put: [fields: Partial<Jar>] }>()
const book = useBook()

function change(index: number, fields: Partial<Jar['entries'][number]>): void {
  emit('put', {
    entries: props.jar.entries.map((entry, i) => (i === index ? { ...entry, ...fields } : entry)),
  })
}

function share(index: number): string {
  const found = props.odds?.entries[index]
  if (!found) return ''
  return found.can ? `${(found.share * 100).toFixed(1)} %` : 'can’t be drawn'
}
</script>

<template>
  <ul class="entries">
    <li v-for="(entry, i) in jar.entries" :key="entry.value + i">
      <ElCheckbox
        :model-value="entry.on"
        :aria-label="`${entry.value} on`"
        @update:model-value="(on) => change(i, { on: Boolean(on) })"
      />
      <span class="picture">
        <img
          v-if="book.mediaById.get(entry.value)?.poster"
          :src="book.mediaById.get(entry.value)?.poster ?? ''"
          alt=""
        />
        <i v-else-if="jar.kind === 'colour'" class="colour" :style="{ background: entry.value }"></i>
        <OutputMark
          v-else
          :of="book.mediaById.get(entry.value)?.kind || (jar.kind === 'text' ? 'caption' : 'picture')"
        />
      </span>
      <span class="grow cut-off">{{
        book.mediaById.get(entry.value)?.name ?? (entry.name || entry.value)
      }}</span>
      <span class="soft small">{{ share(i) }}</span>
      <NumberField
        class="weight"
        :least="0"
        :step="0.5"
        :model-value="entry.weight"
        aria-label="Weight"
        title="Weight"
        @update:model-value="change(i, { weight: $event })"
        narrow
      />
      <button
        class="btn bare tiny"
        aria-label="Remove"
        @click="emit('put', { entries: jar.entries.filter((_, k) => k !== i) })"
      >
        ✕
      </button>
    </li>
  </ul>
  <p v-if="!jar.entries.length" class="soft">Empty.</p>
</template>

<style scoped>
.entries {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 300px;
  overflow: auto;
}

li {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 40px;
  border-top: 1px solid var(--line);
}

.picture {
  display: grid;
  place-items: center;
  width: 36px;
}

.picture img {
  max-width: 36px;
  max-height: 34px;
}

.colour {
  width: 26px;
  height: 26px;
  border-radius: 6px;
}

.weight {
  width: 74px;
  min-height: 30px;
}
</style>
