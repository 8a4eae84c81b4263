<script setup lang="ts">
/** The values of a bridge's things, one row per thing. */
import { computed } from 'vue'
import { useGear, type GearState } from '@/composables/useGear'
import { knownAs } from '@/logic/settings'
import { sayValue } from '@/logic/words'
import { pathOf } from '@/logic/paths'

const props = defineProps<{ gear: GearState }>()
const rig = useGear()
const MOST = 4
const things = computed(() => Object.entries(rig.catalogue[knownAs(props.gear.id)]?.things ?? {}))

const at = (path: string): boolean | number | string | null =>
  props.gear.properties.find((p) => p.path === path)?.actual ?? null
const rows = computed(() =>
  things.value.slice(0, MOST).map(([id, thing]) => ({
    id,
    title: thing.title || id,
    settings: Object.entries(thing.settings).map(([key, kind]) => {
      const value = at(pathOf('things', props.gear.id, id, key))
      const colour = kind.type === 'colour' ? String(value) : ''
      return {
        key,
        title: kind.title || key,
        colour,
        said: colour ? '' : `${sayValue(value)}${kind.unit ? ` ${kind.unit}` : ''}`,
      }
    }),
  })),
)
</script>

<template>
  <div class="things">
    <p v-if="!rows.length" class="soft small">No things.</p>
    <div v-for="row in rows" :key="row.id" class="thing">
      <strong>{{ row.title }}</strong>
      <span v-for="one in row.settings" :key="one.key" class="value">
        {{ one.title }} <i v-if="one.colour" :style="{ background: one.colour }" :title="one.colour"></i
        >{{ one.said }}
      </span>
    </div>
    <p v-if="things.length > MOST" class="soft small">and {{ things.length - MOST }} more</p>
  </div>
</template>

<style scoped>
.things {
  display: grid;
  align-content: center;
  gap: 6px;
  padding: 8px 12px;
  box-sizing: border-box;
}

.thing {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: baseline;
}

.value {
  color: var(--soft);
}

i {
  display: inline-block;
  width: 14px;
  height: 14px;
  border-radius: 7px;
  border: 1px solid var(--line);
  vertical-align: -2px;
}
</style>
