<script setup lang="ts">
/** What the chosen beat changes on the avatar, or on the voice box. */
import { ElCheckbox, ElOption } from 'element-plus'
import { computed } from 'vue'
import { useGear } from '@/composables/useGear'
import AvatarPicture from '@/parts/gear/AvatarPicture.vue'
import BeatFades from './BeatFades.vue'
import { useFields } from './useFields'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'
import { pathOf } from '@/logic/paths'

const gear = useGear()
const { beat, set, number, text } = useFields()
type What = 'model' | 'outfit' | 'pose' | 'preset'
const names = computed(() => gear.catalogue[beat.value?.kind ?? '']?.names ?? {})
const WHAT = computed(
  () => (beat.value?.kind === 'voice' ? ['preset'] : ['model', 'outfit', 'pose']) as What[],
)
const NAME: Record<What, string> = { model: 'Model', outfit: 'Outfit', pose: 'Pose', preset: 'Preset' }
const faces = computed(() => beat.value?.expressions ?? [])
const KNOBS = [
  { key: 'pitch', name: 'Pitch in semitones', min: -24, max: 24, step: 1, usual: 0 },
  { key: 'mix', name: 'Mix', min: 0, max: 1, step: 0.05, usual: 1 },
] as const

function shown(what: What): string {
  const now = gear.gear
    .find((g) => g.kind === 'avatar')
    ?.properties.find((p) => p.path === pathOf('avatar', what))
  return text(what) || String(now?.rest ?? names.value[what]?.[0] ?? '')
}

function toggle(name: string, on: boolean): void {
  set({ expressions: on ? [...faces.value, name] : faces.value.filter((f) => f !== name) })
}
</script>

<template>
  <div v-if="beat" class="stack">
    <p v-if="!Object.keys(names).length" class="soft small">
      It isn’t connected, so names are used as you type them.
    </p>
    <div :class="beat.kind === 'avatar' ? 'beside' : 'stack'">
      <AvatarPicture
        v-if="beat.kind === 'avatar'"
        class="picture"
        :model="shown('model')"
        :outfit="shown('outfit')"
        :pose="shown('pose')"
        :expressions="faces"
      />
      <div class="stack">
        <label v-for="what in WHAT" :key="what" class="field"
          >{{ NAME[what] }}
          <PickField
            v-if="names[what]"
            :data-test="`name-${what}`"
            :model-value="text(what)"
            @update:model-value="set({ [what]: $event || null })"
          >
            <ElOption value="" label="unchanged" />
            <ElOption
              v-if="text(what) && !names[what]?.includes(text(what))"
              :value="text(what)"
              :label="`${text(what)} (not there)`"
            />
            <ElOption v-for="name in names[what]" :key="name" :value="name" :label="name" />
          </PickField>
          <input
            v-else
            class="well"
            :value="text(what)"
            @change="set({ [what]: ($event.target as HTMLInputElement).value.trim() || null })"
          />
        </label>
      </div>
    </div>
    <fieldset v-if="beat.kind === 'avatar'" class="small">
      <legend class="soft">Expressions</legend>
      <ElCheckbox
        v-for="name in [...new Set([...(names.expression ?? []), ...faces])]"
        :key="name"
        :model-value="faces.includes(name)"
        @update:model-value="toggle(name, Boolean($event))"
        >{{ name }}</ElCheckbox
      >
      <span v-if="!names.expression && !faces.length" class="soft">none known yet</span>
    </fieldset>
    <template v-else>
      <div v-for="knob in KNOBS" :key="knob.key" class="row">
        <ElCheckbox
          :model-value="typeof beat[knob.key] === 'number'"
          @update:model-value="set({ [knob.key]: $event ? knob.usual : null })"
          >{{ knob.name }}</ElCheckbox
        >
        <NumberField
          v-if="typeof beat[knob.key] === 'number'"
          class="slim"
          :least="knob.min"
          :most="knob.max"
          :step="knob.step"
          :model-value="number(knob.key, knob.usual)"
          :aria-label="knob.name"
          @update:model-value="set({ [knob.key]: $event })"
          narrow
        />
      </div>
      <BeatFades />
    </template>
  </div>
</template>

<style scoped>
.beside {
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 10px;
}

.picture {
  width: 130px;
  border-radius: 8px;
}

.slim {
  width: 90px;
}
</style>
