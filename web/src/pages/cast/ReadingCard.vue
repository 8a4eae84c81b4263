<script setup lang="ts">
/** How texts are read: who reads what names nobody, what waits for a yes, links, viewers with a part of their own. */
import { computed } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import DurationField from '@/parts/DurationField.vue'

type Reading = Schemas['Reading']
const book = useBook()
const reading = computed(() => book.book?.reading)
const cast = computed(() => book.book?.cast ?? [])
const own = computed(() => Object.entries(reading.value?.viewers ?? {}))

function set(fields: Partial<Reading>): Promise<unknown> {
  const value = { ...reading.value, ...fields } as unknown as Record<string, never>
  return attempt(() => book.edit(() => got(api.PUT('/api/book/reading', { body: { value, version: null } }))))
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
        >What names nobody is read by<select
          class="well"
          :value="reading.default ?? ''"
          @change="set({ default: ($event.target as HTMLSelectElement).value || null })"
        >
          <option value="">the first part</option>
          <option v-for="part in cast" :key="part.id" :value="part.id">{{ part.name }}</option>
        </select></label
      >
      <label class="field"
        >At most speeches in a text<input
          class="well"
          type="number"
          min="1"
          max="20"
          :value="reading.max_parts"
          @change="set({ max_parts: Math.max(1, Number(($event.target as HTMLInputElement).value)) })"
      /></label>
      <label class="field"
        >At most so many characters<input
          class="well number"
          type="number"
          min="10"
          max="2000"
          data-test="most-characters"
          :value="reading.most_characters"
          @change="set({ most_characters: Math.max(10, Number(($event.target as HTMLInputElement).value)) })"
      /></label>
      <label class="field"
        >Heard at most for<DurationField
          :model-value="reading.most_s"
          @update:model-value="set({ most_s: $event })"
      /></label>
      <label class="field"
        >Waits for your yes<select
          class="well"
          data-test="review"
          :value="reading.review"
          @change="set({ review: ($event.target as HTMLSelectElement).value as Reading['review'] })"
        >
          <option value="none">nothing</option>
          <option value="new">viewers never read before</option>
          <option value="all">every text</option>
        </select></label
      >
      <label class="field"
        >A link in a text<select
          class="well"
          :value="reading.links"
          @change="set({ links: ($event.target as HTMLSelectElement).value as Reading['links'] })"
        >
          <option value="word">is read as “link”</option>
          <option value="refuse">turns the text away</option>
        </select></label
      >
    </div>
    <div v-if="cast.length" class="small">
      <span class="soft">Viewers with a part of their own</span>
      <div v-for="[name, part] in own" :key="name" class="row">
        <strong class="grow">{{ name }}</strong>
        <select
          class="well slim"
          :value="part"
          @change="setOwn(name, ($event.target as HTMLSelectElement).value)"
        >
          <option value="">as everyone</option>
          <option v-for="p in cast" :key="p.id" :value="p.id">{{ p.name }}</option>
        </select>
      </div>
      <input
        class="well"
        placeholder="Add a viewer’s name"
        aria-label="Add a viewer’s name"
        @change="addViewer"
      />
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
