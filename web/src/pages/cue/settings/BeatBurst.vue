<script setup lang="ts">
/** A burst: how many pieces, of which shape, how they fall, and how long they last. */
import { computed } from 'vue'
import { useFields } from './useFields'
import { ElOption } from 'element-plus'
import DurationField from '@/parts/DurationField.vue'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const { beat, set, number } = useFields()
const colours = computed(() => beat.value?.colours ?? ['#f0a23c', '#79c9a2', '#f4eedd'])

function paint(at: number, colour: string): void {
  const next = [...colours.value]
  next[at] = colour
  set({ colours: next })
}

function drop(): void {
  set({ colours: colours.value.slice(0, -1) })
}
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
    <label class="field" title="In degrees; 360 is all directions"
      >Spread<NumberField
        :least="0"
        :most="360"
        :step="10"
        data-test="spread"
        :model-value="number('spread', 90)"
        @update:model-value="set({ spread: $event })"
    /></label>
    <label class="field"
      >Speed<NumberField
        :least="0"
        :most="1"
        :step="0.1"
        data-test="speed"
        :model-value="number('speed', 0.7)"
        @update:model-value="set({ speed: $event })"
    /></label>
    <div v-if="!beat.media" class="field colours">
      Colours
      <span class="row">
        <input
          v-for="(colour, i) in colours"
          :key="i"
          type="color"
          :value="colour"
          :aria-label="`Colour ${i + 1}`"
          @change="paint(i, ($event.target as HTMLInputElement).value)"
        />
        <button
          class="btn tiny"
          aria-label="Add colour"
          data-test="more-colours"
          @click="paint(colours.length, '#f4eedd')"
        >
          +
        </button>
        <button v-if="colours.length > 1" class="btn tiny" aria-label="Remove colour" @click="drop">−</button>
      </span>
    </div>
    <label class="field"
      >Bounce<NumberField
        :least="0"
        :most="1"
        :step="0.1"
        :model-value="number('bounce', 0)"
        @update:model-value="set({ bounce: $event })"
    /></label>
    <label class="field" title="Below zero, pieces rise"
      >Gravity<NumberField
        :least="-1"
        :most="2"
        :step="0.1"
        data-test="gravity"
        :model-value="number('gravity', 0.6)"
        @update:model-value="set({ gravity: $event })"
    /></label>
    <label class="field"
      >Lifetime<DurationField
        :model-value="number('life_s', 3)"
        :least="0.001"
        data-test="life"
        @update:model-value="set({ life_s: $event })"
    /></label>
  </div>
</template>

<style scoped>
.colours {
  grid-column: 1 / -1;
}

.two {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(96px, 1fr));
  gap: 8px;
  align-items: end;
}
</style>
