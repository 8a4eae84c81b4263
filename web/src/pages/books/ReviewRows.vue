<script setup lang="ts">
/** What differs, to select from: new, changed field by field, or removed. */
import { ElCheckbox, ElSegmented } from 'element-plus'
import { computed } from 'vue'
import type { EntryRow } from '@/composables/useReview'
import { grouped, STATES } from '@/logic/review'

/** `apart`: clashing entries may be kept beside your own; `plain`: read-only. */
const props = defineProps<{ rows: EntryRow[]; apart?: boolean; plain?: boolean }>()
const emit = defineEmits<{ tick: [keys: string[], on: boolean]; aside: [key: string, beside: boolean] }>()
const groups = computed(() => grouped(props.rows))
const MARKS = { new: '+', changed: '~', removed: '−' } as const
const SIDES = [
  { value: 'instead', label: 'Replace mine' },
  { value: 'beside', label: 'Keep both' },
]
const some = (rows: EntryRow[]): boolean => rows.some((row) => row.takes)
const all = (rows: EntryRow[]): boolean => rows.every((row) => row.takes)
</script>

<template>
  <section v-for="group in groups" :key="group.kind" class="group" :aria-label="group.title">
    <h2>
      <template v-if="plain">{{ group.title }}</template>
      <ElCheckbox
        v-else
        :model-value="all(group.rows)"
        :indeterminate="some(group.rows) && !all(group.rows)"
        :aria-label="`All of: ${group.title}`"
        @update:model-value="
          emit(
            'tick',
            group.rows.map((row) => row.key),
            Boolean($event),
          )
        "
        >{{ group.title }}</ElCheckbox
      >
      <span v-if="group.rows.length > 1" class="soft small">{{ group.rows.length }}</span>
    </h2>
    <ul>
      <li
        v-for="row in group.rows"
        :key="row.key"
        :class="[row.state, { off: !row.takes && !plain, plain }]"
        :data-test="row.key"
      >
        <ElCheckbox
          v-if="!plain"
          :model-value="row.takes"
          :disabled="Boolean(row.needed_by)"
          :aria-label="row.name"
          @update:model-value="emit('tick', [row.key], Boolean($event))"
        />
        <span class="mark" aria-hidden="true">{{ MARKS[row.state] }}</span>
        <div class="what">
          <div class="row">
            <strong v-if="row.id || row.name.toLowerCase() !== group.title.toLowerCase()">{{
              row.name
            }}</strong>
            <span class="state small">{{ row.beside ? 'added beside yours' : STATES[row.state] }}</span>
            <span v-if="row.needed_by" class="soft small">{{ row.needed_by }} needs it</span>
            <span v-if="row.as_id" class="soft small">as {{ row.as_id }}</span>
          </div>
          <p v-if="row.told && (row.state === 'new' || row.beside)" class="told soft">{{ row.told }}</p>
          <ul v-if="row.fields.length && !row.beside" class="fields">
            <li v-for="field in row.fields" :key="field.path">
              <span class="soft">{{ field.what }}</span>
              <template v-if="field.was"
                ><del>{{ field.was }}</del
                ><span aria-label="becomes">→</span></template
              ><ins v-if="field.now">{{ field.now }}</ins>
            </li>
          </ul>
        </div>
        <ElSegmented
          v-if="apart && row.clashes && row.takes"
          class="sides"
          size="small"
          :model-value="row.beside ? 'beside' : 'instead'"
          :options="SIDES"
          :aria-label="`Where ${row.name} goes`"
          @update:model-value="emit('aside', row.key, $event === 'beside')"
        />
      </li>
    </ul>
  </section>
</template>

<style scoped>
.group {
  display: grid;
  gap: 4px;
}

h2 {
  display: flex;
  align-items: center;
  gap: 8px;
}

h2 :deep(.el-checkbox__label) {
  font: 640 17px var(--display);
  color: var(--ink);
}

ul {
  display: grid;
  gap: 4px;
  margin: 0;
  padding: 0;
  list-style: none;
}

.group > ul > li {
  display: grid;
  grid-template-columns: auto 18px minmax(0, 1fr) auto;
  gap: 10px;
  align-items: start;
  padding: 4px 12px 6px;
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: 8px;
}

.group > ul > li.plain {
  grid-template-columns: 18px minmax(0, 1fr);
}

.what {
  padding-top: 4px;
}

.told {
  margin: 0;
  font-size: 14px;
  overflow-wrap: anywhere;
}

.off .what {
  opacity: 0.72;
}

.mark {
  padding-top: 1px;
  font: 700 20px var(--display);
  text-align: center;
}

.new .mark,
.new .state {
  color: var(--mint);
}

.changed .mark,
.changed .state {
  color: var(--marmalade);
}

.removed .mark,
.removed .state {
  color: var(--berry);
}

.fields {
  gap: 1px;
  margin-top: 2px;
  font-size: 14px;
}

.fields li {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
  overflow-wrap: anywhere;
}

del {
  color: var(--soft);
}

ins {
  text-decoration: none;
}

.sides {
  margin-top: 2px;
}

@media (max-width: 700px) {
  .group > ul > li {
    grid-template-columns: auto 18px minmax(0, 1fr);
  }

  .sides {
    grid-column: 3;
    justify-self: start;
  }
}
</style>
