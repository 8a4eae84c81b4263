<script setup lang="ts">
/** Where others may connect: nowhere, or on one of this computer's addresses. */
import { computed } from 'vue'
import { addressChoices } from '@/logic/choices'
import { attempt } from '@/composables/useSay'
import PickField from './PickField.vue'

const props = defineProps<{
  where: { beyond: string; addresses: string[] }
  listen: (address: string) => Promise<void>
}>()
const choices = computed(() => addressChoices(props.where.addresses, props.where.beyond))
</script>

<template>
  <label class="row">
    <span class="soft small">Allow from</span>
    <PickField
      class="pick"
      :model-value="where.beyond"
      :choices="choices"
      aria-label="Allow from"
      @update:model-value="attempt(() => listen($event))"
    />
  </label>
</template>

<style scoped>
.pick {
  flex: 1;
  max-width: 320px;
}
</style>
