<script setup lang="ts">
/** The words of the chosen beat, with usable names as chips; for a caption also their look. */
import type { BeatFields } from '@/api/client'
import { ElOption, ElSlider } from 'element-plus'
import { computed, ref } from 'vue'
import { useBook } from '@/composables/useBook'
import { useDraft } from '../draft'
import { jarIn } from '@/logic/beats'
import PickField from '@/parts/PickField.vue'

const DRAWN = [
  { id: 'drawn.name', name: 'drawn viewer' },
  { id: 'drawn.times', name: 'times drawn' },
  { id: 'drawn.picture', name: 'address of their picture' },
]
const book = useBook()
const draft = useDraft()
const beat = draft.chosenBeat
const field = ref<HTMLTextAreaElement>()
const jars = computed(() => (book.book?.jars ?? []).filter((jar) => jar.kind === 'text'))
const jar = computed(() => jarIn(beat.value?.text))
const isCaption = computed(() => beat.value?.kind === 'caption')

const chips = computed(() => {
  const drawn = draft.beats.value.filter((b) => jarIn(b.media))
  const rolls = draft.beats.value.some((b) => b.kind === 'chance')
  const rule = draft.cue.value?.door.text
  return [
    { id: 'viewer', name: 'viewer' },
    ...(rule ? [{ id: 'text', name: 'text' }] : []),
    ...(rule && rule.kind !== 'any' ? [{ id: rule.kind, name: rule.kind }] : []),
    { id: 'reward', name: 'reward' },
    { id: 'cost', name: 'cost' },
    { id: 'count_viewer', name: 'times by viewer' },
    { id: 'count_all', name: 'times in all' },
    { id: 'nth_viewer', name: 'their 7th' },
    { id: 'nth_all', name: 'the 412th' },
    ...drawn.map((b) => ({ id: `drawn.${b.id}`, name: `drawn: ${b.id}` })),
    ...(draft.beats.value.some((b) => b.kind === 'draw') ? DRAWN : []),
    ...(rolls ? [{ id: 'rolled', name: 'rolled' }] : []),
  ]
})

function set(fields: BeatFields): void {
  if (beat.value) draft.change(beat.value.id, fields)
}

/** Inserts a chip at the cursor. */
function put(id: string): void {
  const text = String(beat.value?.text ?? '')
  const at = field.value?.selectionStart ?? text.length
  set({ text: `${text.slice(0, at)}{{${id}}}${text.slice(field.value?.selectionEnd ?? at)}` })
}
</script>

<template>
  <div v-if="beat" class="words">
    <label class="field">
      Words
      <PickField
        v-if="jars.length"
        :model-value="jar"
        aria-label="Text source"
        @update:model-value="
          set({
            text: $event ? { jar: $event, count: 1 } : '{{viewer}}',
          })
        "
      >
        <ElOption value="" label="typed here" />
        <ElOption v-for="j in jars" :key="j.id" :value="j.id" :label="`drawn from ${j.name || j.id}`" />
      </PickField>
      <textarea
        v-if="!jar"
        ref="field"
        class="well"
        rows="2"
        aria-label="Words"
        :value="String(beat.text)"
        @input="set({ text: ($event.target as HTMLTextAreaElement).value })"
      ></textarea>
    </label>
    <span v-if="!jar" class="row chips">
      <button v-for="chip in chips" :key="chip.id" class="btn tiny" type="button" @click="put(chip.id)">
        {{ chip.name }}
      </button>
    </span>
    <template v-if="isCaption">
      <div class="three">
        <label class="field"
          >Type
          <PickField :model-value="beat.face ?? 'display'" @update:model-value="set({ face: $event })">
            <ElOption value="display" label="poster" />
            <ElOption value="text" label="plain" /> </PickField
        ></label>
        <label class="field"
          >Alignment
          <PickField :model-value="beat.align ?? 'centre'" @update:model-value="set({ align: $event })">
            <ElOption value="left" label="left" />
            <ElOption value="centre" label="centred" />
            <ElOption value="right" label="right" /> </PickField
        ></label>
        <label class="field"
          >Height<ElSlider
            :model-value="Number(beat.size ?? 0.06) * 100"
            :min="2"
            :max="30"
            @update:model-value="set({ size: Number($event) / 100 })"
        /></label>
      </div>
      <div class="row small">
        <label class="row"
          >Ink<input
            type="color"
            :value="String(beat.colour ?? '#f4eedd')"
            @input="set({ colour: ($event.target as HTMLInputElement).value })"
        /></label>
        <label class="row"
          ><input
            type="checkbox"
            :checked="beat.plate !== null"
            @change="set({ plate: ($event.target as HTMLInputElement).checked ? '#121d1b' : null })"
          />With plate</label
        >
        <input
          v-if="beat.plate !== null"
          type="color"
          aria-label="Plate colour"
          :value="String(beat.plate ?? '#121d1b')"
          @input="set({ plate: ($event.target as HTMLInputElement).value })"
        />
      </div>
    </template>
  </div>
</template>

<style scoped>
.words {
  display: grid;
  gap: 8px;
}

.chips {
  flex-wrap: wrap;
  gap: 4px;
}

.chips .btn {
  padding-inline: 8px;
}

.three {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 10px;
}

.three label.field:has(> .el-slider) {
  grid-template-columns: minmax(0, 1fr);
  gap: 2px;
}
</style>
