<script setup lang="ts">
/** The rest value of one property, editable. */
import { computed } from 'vue'
import { api, got } from '@/api/client'
import { useGear } from '@/composables/useGear'
import { attempt } from '@/composables/useSay'
import { ElOption } from 'element-plus'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'
import SettingField from '@/parts/SettingField.vue'
import { settingAt } from '@/logic/settings'
import { readPath } from '@/logic/paths'

const props = defineProps<{ path: string; name: string; value: boolean | number | string | null }>()
const gear = useGear()
const kind = computed(() => settingAt(gear.catalogue, props.path))
const choices = computed(() => {
  if (props.path === 'broadcast/scene') return Object.keys(gear.broadcast?.scenes ?? {})
  const { family, steps } = readPath(props.path)
  const [what = '', name] = steps
  if (name && family === 'avatar') return ['on', 'off']
  return gear.catalogue[family]?.names[what] ?? []
})

async function put(value: boolean | number | string): Promise<void> {
  await attempt(async () => {
    await got(api.PUT('/api/rest-values', { body: { values: { [props.path]: value } } }))
    await gear.load()
  })
}
</script>

<template>
  <SettingField
    v-if="kind && value !== null"
    class="slim"
    :kind="kind"
    :model-value="value"
    :aria-label="name"
    narrow
    @update:model-value="put($event)"
  />
  <input
    v-else-if="typeof value === 'boolean'"
    type="checkbox"
    :checked="value"
    :aria-label="name"
    @change="put(($event.target as HTMLInputElement).checked)"
  />
  <NumberField
    v-else-if="typeof value === 'number'"
    class="slim"
    :model-value="value"
    :aria-label="name"
    @update:model-value="put($event)"
    narrow
  />
  <PickField
    v-else-if="choices.length"
    class="slim"
    :model-value="value ?? ''"
    :aria-label="name"
    @update:model-value="put($event)"
  >
    <ElOption v-for="choice in choices" :key="choice" :value="choice" :label="choice" />
  </PickField>
  <input
    v-else-if="value?.startsWith('#')"
    type="color"
    :value="value"
    :aria-label="name"
    @change="put(($event.target as HTMLInputElement).value)"
  />
  <span v-else>{{ value ?? 'unknown' }}</span>
</template>

<style scoped>
.slim {
  max-width: 220px;
}
</style>
