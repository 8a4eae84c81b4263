<script setup lang="ts">
/** Which pattern the chosen beat plays, and its strength; and the pattern itself, to paint. */
import { ElOption, ElSlider } from 'element-plus'
import { computed, ref } from 'vue'
import { useBook } from '@/composables/useBook'
import PatternDialog from '@/parts/gear/PatternDialog.vue'
import { useFields } from './useFields'
import PickField from '@/parts/PickField.vue'

const book = useBook()
const { beat, set, number, text } = useFields()
const patterns = computed(() => book.book?.patterns ?? [])
const there = computed(() =>
  patterns.value.find((p) => p.id === text('pattern') || p.name === text('pattern')),
)
const painting = ref(false)
</script>

<template>
  <div v-if="beat" class="stack">
    <div class="two">
      <label class="field"
        >Pattern
        <PickField
          data-test="pattern"
          :model-value="there?.id ?? text('pattern')"
          @update:model-value="set({ pattern: $event })"
        >
          <ElOption
            v-if="!there"
            :value="text('pattern')"
            :label="`${text('pattern') || 'no patterns yet'} (not there)`"
          />
          <ElOption v-for="one in patterns" :key="one.id" :value="one.id" :label="one.name" />
        </PickField>
      </label>
      <button class="btn tiny" data-test="paint" @click="painting = true">Paint…</button>
    </div>
    <label class="field"
      >Strength {{ Math.round(number('strength', 1) * 100) }} %<ElSlider
        :model-value="number('strength', 1) * 100"
        @update:model-value="set({ strength: Number($event) / 100 })"
    /></label>
    <p class="soft small none">
      The house limits this to {{ Math.round((book.book?.house.haptics_level ?? 0.8) * 100) }} % and
      {{ book.book?.house.haptics_most_s }} s without a pause.
    </p>
    <PatternDialog
      v-if="painting"
      :pattern-id="there?.id ?? null"
      @chosen="set({ pattern: $event })"
      @close="painting = false"
    />
  </div>
</template>
