<script setup lang="ts" generic="T extends string | number | undefined">
/**
 * One choice out of several: typing narrows a long list, and choices with a picture show it.
 *
 * Options are direct children of the slot: those inside groups or components have no name until the list is open (use `choices`).
 * The default of a click is prevented: a list inside a label would pass the click on to its field, and open again.
 */
import { computed, nextTick, onMounted, ref } from 'vue'
import { ElOption, ElOptionGroup, ElSelect, ElSelectV2 } from 'element-plus'
import type { Choice } from './choice'
import PickFace from './PickFace.vue'

const props = defineProps<{ modelValue: T; choices?: readonly Choice[]; placeholder?: string }>()
const emit = defineEmits<{ 'update:modelValue': [value: Exclude<T, undefined>] }>()

/** From this many choices on, typing is offered. */
const MANY = 8
/** From this many choices on, only visible ones are drawn. */
const VERY_MANY = 60

const select = ref<InstanceType<typeof ElSelect> | InstanceType<typeof ElSelectV2>>()
/** Inside a popover the list stays part of it: a click in a list outside would close the popover. */
const outside = ref(true)
onMounted(() => {
  const node: unknown = select.value?.$el
  outside.value = !(node instanceof Element && node.closest('.el-popover'))
})

const plain = computed(() => props.choices?.filter((choice) => !choice.group) ?? [])
const groups = computed(() => {
  const by = new Map<string, Choice[]>()
  for (const choice of props.choices ?? []) {
    if (choice.group) by.set(choice.group, [...(by.get(choice.group) ?? []), choice])
  }
  return by
})
const options = computed(() => {
  const row = (choice: Choice): object => ({
    value: choice.value,
    label: choice.name,
    disabled: choice.off,
    choice,
  })
  const grouped = [...groups.value].map(([label, list]) => ({ value: label, label, options: list.map(row) }))
  return [...plain.value.map(row), ...grouped]
})
const chosen = computed(() => props.choices?.find((choice) => choice.value === props.modelValue))

/** Shows the book's value: a refused choice goes back by itself. */
const refused = ref(0)
function take(value: Exclude<T, undefined>): void {
  emit('update:modelValue', value)
  void nextTick(() => {
    if (props.modelValue !== value) refused.value += 1
  })
}
</script>

<template>
  <ElSelectV2
    v-if="(choices?.length ?? 0) > VERY_MANY"
    :key="`many${refused}`"
    ref="select"
    class="pick-field"
    :model-value="modelValue"
    :options="options"
    :placeholder="placeholder ?? ''"
    :empty-values="[undefined]"
    :teleported="outside"
    filterable
    :show-arrow="false"
    :persistent="false"
    :offset="4"
    no-match-text="no matches"
    @update:model-value="take"
    @click.capture.prevent
  >
    <template v-if="chosen?.picture" #prefix
      ><img class="chosen-picture" :src="chosen.picture" alt=""
    /></template>
    <template #default="{ item }"><PickFace :choice="item.choice" /></template>
  </ElSelectV2>
  <ElSelect
    v-else
    :key="refused"
    ref="select"
    class="pick-field"
    :model-value="modelValue"
    :placeholder="placeholder ?? ''"
    :empty-values="[undefined]"
    :teleported="outside"
    :filterable="(choices?.length ?? 0) > MANY"
    :show-arrow="false"
    :persistent="false"
    :offset="4"
    no-match-text="no matches"
    no-data-text="none yet"
    @update:model-value="take"
    @click.capture.prevent
  >
    <template v-if="chosen?.picture" #prefix
      ><img class="chosen-picture" :src="chosen.picture" alt=""
    /></template>
    <!-- The list exists only while it is open, so it can't provide the name of the choice. -->
    <template v-if="chosen" #label>{{ chosen.name }}</template>
    <slot>
      <ElOption
        v-for="choice in plain"
        :key="choice.value"
        :value="choice.value"
        :label="choice.name"
        :disabled="choice.off"
        ><PickFace :choice="choice"
      /></ElOption>
      <ElOptionGroup v-for="[group, list] in groups" :key="group" :label="group">
        <ElOption
          v-for="choice in list"
          :key="choice.value"
          :value="choice.value"
          :label="choice.name"
          :disabled="choice.off"
          ><PickFace :choice="choice"
        /></ElOption>
      </ElOptionGroup>
    </slot>
  </ElSelect>
</template>

<style scoped>
.pick-field {
  min-width: 0;
}

.chosen-picture {
  width: 28px;
  height: 20px;
  object-fit: contain;
}
</style>
