<script setup lang="ts">
/** What several selected items on the stage can do together, and their order. */
import { computed, ref } from 'vue'
import type { AnyBeat } from '@/api/client'
import type { Place } from '@/composables/useCueDraft'
import { ALIGNS, aligned, relayered, type Align } from '@/logic/arrange'
import { useDraft } from '../draft'
import { ElOption } from 'element-plus'
import PickField from '@/parts/PickField.vue'

const props = defineProps<{ seen: AnyBeat[] }>()
const draft = useDraft()
const placed = computed(() => draft.picked.value.filter((beat) => beat.place))

/** The choice isn't kept: choosing does it. */
const how = ref<Align>()

function align(how: Align): void {
  const to = placed.value[0]?.place as Place
  for (const beat of placed.value.slice(1)) {
    draft.change(beat.id, { place: aligned(beat.place as Place, to, how) })
  }
}

function layer(way: 'front' | 'back'): void {
  const order = [...props.seen].sort((a, b) => Number(a.layer ?? 0) - Number(b.layer ?? 0))
  const moved = placed.value.map((beat) => beat.id)
  for (const [id, at] of relayered(
    order.map((beat) => beat.id),
    moved,
    way,
  ))
    draft.change(id, { layer: at })
}
</script>

<template>
  <PickField
    v-if="placed.length > 1"
    class="how"
    aria-label="Align"
    data-test="align"
    :model-value="how"
    :placeholder="`Align ${placed.length} to the first…`"
    @update:model-value="align"
  >
    <ElOption v-for="way in ALIGNS" :key="way.id" :value="way.id" :label="way.name" />
  </PickField>
  <template v-if="placed.length && seen.length > 1">
    <button class="btn tiny" data-test="to-front" @click="layer('front')">To the front</button>
    <button class="btn tiny" data-test="to-back" @click="layer('back')">To the back</button>
  </template>
</template>

<style scoped>
.how {
  width: 190px;
}
</style>
