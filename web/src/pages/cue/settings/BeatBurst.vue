<script setup lang="ts">
/** A burst: how many pieces, of which shape, how they fall, and how long they are there. */
import { useFields } from './useFields'
import { ElOption } from 'element-plus'
import DurationField from '@/parts/DurationField.vue'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const { beat, set, number } = useFields()
</script>

<template>
  <div v-if="beat" class="two">
    <label class="field"
      >Pieces<NumberField
        :least="1"
        :most="400"
        :model-value="number('count', 60)"
        @update:model-value="set({ count: $event })"
        whole
    /></label>
    <label class="field"
      >Shape<PickField :model-value="beat.shape ?? 'ticket'" @update:model-value="set({ shape: $event })">
        <ElOption
          v-for="shape in ['ticket', 'spark', 'leaf', 'dot']"
          :key="shape"
          :value="shape"
          :label="shape"
        /> </PickField
    ></label>
    <label class="field"
      >Bounce<NumberField
        :least="0"
        :most="1"
        :step="0.1"
        :model-value="number('bounce', 0)"
        @update:model-value="set({ bounce: $event })"
    /></label>
    <label class="field" title="Below zero they rise"
      >Gravity<NumberField
        :least="-1"
        :most="2"
        :step="0.1"
        data-test="gravity"
        :model-value="number('gravity', 0.6)"
        @update:model-value="set({ gravity: $event })"
    /></label>
    <label class="field"
      >Each lasts<DurationField
        :model-value="number('life_s', 3)"
        :least="0.001"
        data-test="life"
        @update:model-value="set({ life_s: $event })"
    /></label>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(96px, 1fr));
  gap: 8px;
  align-items: end;
}
</style>
