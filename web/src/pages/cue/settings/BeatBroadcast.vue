<script setup lang="ts">
/** What the chosen beat does at the broadcaster: a scene, a source, or a setting of a filter. */
import type { BeatFields } from '@/api/client'
import { ElCheckbox, ElOption } from 'element-plus'
import { computed } from 'vue'
import { useGear, type SettingKind } from '@/composables/useGear'
import NameField from '@/parts/NameField.vue'
import BeatFades from './BeatFades.vue'
import { useDraft } from '../draft'
import PickField from '@/parts/PickField.vue'
import { firstValue } from '@/logic/settings'
import SettingOrViewer from './SettingOrViewer.vue'

const gear = useGear()
const draft = useDraft()
const beat = draft.chosenBeat
const scenes = computed(() => gear.broadcast?.scenes ?? {})
/** The current scene comes first. */
const onNow = computed(() =>
  String(
    gear.gear.flatMap((one) => one.properties).find((one) => one.path === 'broadcast/scene')?.wanted ?? '',
  ),
)
const names = computed(() =>
  Object.keys(scenes.value).sort((a, b) => Number(b === onNow.value) - Number(a === onNow.value)),
)
/** What is in each scene; of many sources the first. */
const inScenes = computed(() =>
  Object.fromEntries(
    Object.entries(scenes.value).map(([name, sources]) => [
      name,
      (name === onNow.value ? 'on now: ' : '') +
        sources.slice(0, 3).join(', ') +
        (sources.length > 3 ? '…' : ''),
    ]),
  ),
)
const scene = computed(() => String(beat.value?.scene ?? ''))
const inScene = computed(() => scenes.value[scene.value] ?? [])
const filtered = computed(() => Object.keys(gear.broadcast?.filters ?? {}))
const sources = computed(() => beat.value?.sources ?? [])
const filters = computed(() => gear.broadcast?.filters[sources.value[0] ?? ''] ?? {})
const settings = computed(() => filters.value[String(beat.value?.filter ?? '')] ?? {})
const kind = computed<SettingKind | undefined>(() => settings.value[String(beat.value?.setting ?? 'on')])

function set(fields: BeatFields): void {
  if (beat.value) draft.change(beat.value.id, fields)
}

function chooseFilter(filter: string): void {
  set({ filter, setting: 'on', value: true })
}

function chooseSetting(setting: string): void {
  set({ setting, value: firstValue(settings.value[setting]) })
}

function toggleSource(name: string, on: boolean): void {
  const next = on ? [...sources.value, name] : sources.value.filter((s) => s !== name)
  if (next.length) set({ sources: next })
}
</script>

<template>
  <div v-if="beat" class="broadcast">
    <p v-if="!gear.broadcast" class="soft small">
      No broadcaster is connected, so names are used as you type them.
    </p>
    <NameField
      v-if="beat.kind !== 'filter'"
      label="Scene"
      :model-value="scene"
      :known="names"
      :details="inScenes"
      @update:model-value="set({ scene: $event })"
    />
    <template v-if="beat.kind === 'source'">
      <ElCheckbox
        :model-value="Boolean(beat.any_source)"
        @update:model-value="
          set(
            $event
              ? { any_source: true, source: null }
              : { any_source: false, source: inScene[0] ?? 'Source' },
          )
        "
        >Random source</ElCheckbox
      >
      <label v-if="beat.any_source" class="field"
        >Names starting with<input
          class="well"
          :value="String(beat.beginning ?? '')"
          placeholder="any"
          @change="set({ beginning: ($event.target as HTMLInputElement).value })"
      /></label>
      <NameField
        v-else
        label="Source"
        :model-value="String(beat.source ?? '')"
        :known="inScene"
        @update:model-value="set({ source: $event })"
      />
      <div class="row">
        <PickField
          aria-label="Shown or hidden"
          :model-value="beat.visible === false ? 'hidden' : 'shown'"
          @update:model-value="set({ visible: $event === 'shown' })"
        >
          <ElOption value="shown" label="is shown" />
          <ElOption value="hidden" label="is hidden" />
        </PickField>
        <ElCheckbox
          :model-value="Boolean(beat.hide_others)"
          @update:model-value="set({ hide_others: Boolean($event) })"
          >the others {{ beat.visible === false ? 'shown' : 'hidden' }}</ElCheckbox
        >
      </div>
    </template>
    <template v-if="beat.kind === 'filter'">
      <fieldset class="small">
        <legend class="soft">Sources</legend>
        <ElCheckbox
          v-for="name in [...new Set([...filtered, ...sources])]"
          :key="name"
          :model-value="sources.includes(name)"
          @update:model-value="toggleSource(name, Boolean($event))"
          >{{ name }}</ElCheckbox
        >
      </fieldset>
      <div class="two">
        <NameField
          label="Filter"
          :model-value="String(beat.filter ?? '')"
          :known="Object.keys(filters)"
          @update:model-value="chooseFilter"
        />
        <NameField
          label="Setting"
          :model-value="String(beat.setting ?? 'on')"
          :known="Object.keys(settings)"
          @update:model-value="chooseSetting"
        />
      </div>
      <SettingOrViewer
        name="Value"
        :kind="kind"
        :model-value="beat.value ?? true"
        @update:model-value="set({ value: $event })"
      />
    </template>
    <BeatFades v-if="beat.kind === 'filter'" />
  </div>
</template>

<style scoped>
.broadcast {
  display: grid;
  gap: 8px;
}

.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}

fieldset {
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 2px 10px;
}
</style>
