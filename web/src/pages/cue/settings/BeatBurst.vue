<script setup lang="ts">
/** A burst: how many pieces, of which shape, and whether they bounce. */
import { useFields } from './useFields'
import { ElOption } from 'element-plus'
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
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: 1fr;
  gap: 8px;
  align-items: end;
}
</style>
