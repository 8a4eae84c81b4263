<script setup lang="ts">
/** One lamp: where it listens, how its light follows a colour, its rest, and its groups. */
import { ElOption } from 'element-plus'
import type { Schemas } from '@/api/client'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'

type Fixture = Schemas['Fixture']
defineProps<{
  lamp: Fixture
  place?: Schemas['LampOut']
  groups: Schemas['Group'][]
  colour: string
  level: number
}>()
const emit = defineEmits<{
  change: [fields: Partial<Fixture>]
  hand: [what: 'colour' | 'level', value: string | number]
  group: [group: string, on: boolean]
  remove: []
}>()
const PROFILES = {
  rgb: 'red green blue',
  rgbw: 'with white',
  dimmer_rgb: 'dimmer and colour',
  dimmer: 'dimmer',
}

const valueOf = (event: Event): string => (event.target as HTMLInputElement).value
</script>

<template>
  <tr>
    <td>
      <input
        class="well"
        :value="lamp.name || lamp.id"
        aria-label="Lamp name"
        @change="emit('change', { name: valueOf($event) })"
      />
    </td>
    <td>
      <PickField
        :model-value="lamp.profile"
        aria-label="Profile"
        @update:model-value="emit('change', { profile: $event })"
      >
        <ElOption v-for="(name, id) in PROFILES" :key="id" :value="id" :label="name" />
      </PickField>
    </td>
    <td>
      <NumberField
        class="slim"
        :least="1"
        :model-value="lamp.universe"
        aria-label="Universe"
        @update:model-value="emit('change', { universe: $event })"
        narrow
        whole
      />
    </td>
    <td>
      <NumberField
        class="slim"
        :class="{ wrong: place?.problem }"
        :least="1"
        :most="512"
        :model-value="lamp.address"
        :hint="String(place?.address ?? '–')"
        :title="place?.problem"
        aria-label="First channel"
        @update:model-value="emit('change', { address: $event })"
        optional
        narrow
        whole
        @clear="emit('change', { address: null })"
      />
    </td>
    <td>
      <NumberField
        class="slim"
        :least="1"
        :most="4"
        :step="0.1"
        :model-value="lamp.gamma"
        :aria-label="`Gamma of ${lamp.name || lamp.id}`"
        @update:model-value="emit('change', { gamma: $event })"
        narrow
      />
    </td>
    <td>
      <input
        type="checkbox"
        :checked="lamp.spared"
        aria-label="Exempt"
        :data-test="`spared-${lamp.id}`"
        @change="emit('change', { spared: ($event.target as HTMLInputElement).checked })"
      />
    </td>
    <td>
      <span class="row">
        <input
          type="color"
          :value="colour"
          :data-test="`hand-${lamp.id}`"
          aria-label="Rest colour"
          @change="emit('hand', 'colour', valueOf($event))"
        />
        <input
          type="range"
          min="0"
          max="100"
          :value="level * 100"
          aria-label="Rest level"
          @change="emit('hand', 'level', Number(valueOf($event)) / 100)"
        />
      </span>
    </td>
    <td v-for="group in groups" :key="group.id">
      <input
        type="checkbox"
        :checked="group.fixtures.includes(lamp.id)"
        :aria-label="`In ${group.name}`"
        @change="emit('group', group.id, ($event.target as HTMLInputElement).checked)"
      />
    </td>
    <td>
      <button class="btn tiny" :aria-label="`Remove ${lamp.name || lamp.id}`" @click="emit('remove')">
        ×
      </button>
    </td>
  </tr>
</template>

<style scoped>
td {
  padding: 2px 8px 2px 0;
}

.slim {
  width: 76px;
}

.wrong {
  border-color: var(--berry);
}

input[type='range'] {
  width: 90px;
}
</style>
