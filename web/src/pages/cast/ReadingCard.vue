<script setup lang="ts">
/** How texts are read: the default voice, what needs approval, links, viewers with a part of their own. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import DurationField from '@/parts/DurationField.vue'
import { ElOption } from 'element-plus'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

type Reading = Schemas['Reading']
const book = useBook()
const reading = computed(() => book.book?.reading)
const cast = computed(() => book.book?.cast ?? [])
const own = computed(() => Object.entries(reading.value?.viewers ?? {}))

function set(fields: Partial<Reading>): Promise<unknown> {
  return attempt(() => book.putPart('reading', fields))
}

function setOwn(name: string, part: string): void {
  const viewers = { ...reading.value?.viewers }
  if (part) viewers[name] = part
  else delete viewers[name]
  void set({ viewers })
}

function addViewer(event: Event): void {
  const field = event.target as HTMLInputElement
  const name = field.value.trim()
  const first = cast.value[0]
  if (name && first) setOwn(name, first.id)
  field.value = ''
}
</script>

<template>
  <section v-if="reading" class="card reading">
    <h2>Reading</h2>
    <div class="two">
      <label class="field"
        >Default voice<PickField
          :model-value="reading.default ?? ''"
          @update:model-value="set({ default: $event || null })"
        >
          <ElOption value="" label="first part" />
          <ElOption v-for="part in cast" :key="part.id" :value="part.id" :label="part.name" /> </PickField
      ></label>
      <label class="field"
        >Maximum voices per message<NumberField
          :least="1"
          :most="20"
          :model-value="reading.max_parts"
          @update:model-value="set({ max_parts: $event })"
          whole
      /></label>
      <label class="field"
        >Maximum length<NumberField
          :least="10"
          :most="2000"
          data-test="most-characters"
          :model-value="reading.most_characters"
          @update:model-value="set({ most_characters: $event })"
          whole
      /></label>
      <label class="field"
        >Maximum duration<DurationField
          :model-value="reading.most_s"
          @update:model-value="set({ most_s: $event })"
      /></label>
      <label class="field"
        >Needs approval<PickField
          data-test="review"
          :model-value="reading.review"
          @update:model-value="set({ review: $event })"
        >
          <ElOption value="none" label="nothing" />
          <ElOption value="new" label="first-time viewers" />
          <ElOption value="all" label="every message" /> </PickField
      ></label>
      <label class="field"
        >Links<PickField :model-value="reading.links" @update:model-value="set({ links: $event })">
          <ElOption value="word" label="are read as “link”" />
          <ElOption value="refuse" label="refuse the message" /> </PickField
      ></label>
    </div>
    <div v-if="cast.length" class="small">
      <span class="soft">Viewers with their own part</span>
      <div v-for="[name, part] in own" :key="name" class="row">
        <strong class="grow">{{ name }}</strong>
        <PickField class="slim" :model-value="part" @update:model-value="setOwn(name, $event)">
          <ElOption value="" label="default" />
          <ElOption v-for="p in cast" :key="p.id" :value="p.id" :label="p.name" />
        </PickField>
      </div>
      <input class="well" placeholder="Viewer’s name" aria-label="Viewer’s name" @change="addViewer" />
    </div>
  </section>
</template>

<style scoped>
.reading {
  display: grid;
  gap: 10px;
}

.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}

.slim {
  width: 150px;
  min-height: 30px;
}
</style>
