<script setup lang="ts">
import { ElPopover } from 'element-plus'
import { useRest } from '@/composables/useRest'

const { offers, rest, closeHouse } = useRest()
</script>

<template>
  <ElPopover
    :persistent="false"
    :visible="offers"
    popper-class="offer"
    width="230"
    placement="bottom"
    role="dialog"
    aria-label="Close the house"
  >
    <template #reference>
      <button
        class="btn rest"
        title="Shift+Escape. Hold Shift and click to close the house too"
        data-test="all-to-rest"
        @click="rest($event.shiftKey)"
      >
        All to rest
      </button>
    </template>
    <button class="btn main close" data-test="and-close" @click="closeHouse">And close the house</button>
  </ElPopover>
</template>

<style scoped>
.rest {
  border-color: var(--berry);
  color: var(--ink);
  font-weight: 700;
}

.close {
  width: 100%;
}
</style>
