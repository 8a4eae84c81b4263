<script setup lang="ts">
/** Overlays on other computers of the house: where they may connect. */
import { computed, onMounted, ref } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { attempt } from '@/composables/useSay'
import { addressChoices } from '@/logic/choices'
import PickField from '@/parts/PickField.vue'

const emit = defineEmits<{ begins: [begins: string] }>()
const where = ref<Schemas['OverlaysBeyond']>()
const choices = computed(() => addressChoices(where.value?.addresses ?? [], where.value?.beyond ?? ''))

function take(told: Schemas['OverlaysBeyond']): void {
  where.value = told
  emit('begins', told.begins)
}

async function listen(address: string): Promise<void> {
  take(await got(api.PUT('/api/overlays-beyond', { body: { address } })))
}

onMounted(() => void attempt(async () => take(await got(api.GET('/api/overlays-beyond')))))
</script>

<template>
  <div v-if="where" class="beyond">
    <label class="row">
      <span class="soft small">Allow from</span>
      <PickField
        class="pick"
        :model-value="where.beyond"
        :choices="choices"
        aria-label="Allow from"
        data-test="overlays-beyond"
        @update:model-value="attempt(() => listen($event))"
      />
    </label>
    <p v-if="where.beyond" class="soft small">
      Other computers on this network can show an overlay if they have its link.
      {{ where.listens ? '' : 'Not listening there yet.' }}
      {{
        where.secure ? '' : 'Without your own certificate, whoever controls the network could read the link.'
      }}
    </p>
  </div>
</template>

<style scoped>
.beyond {
  display: grid;
  gap: 4px;
}

.pick {
  width: 240px;
}

p {
  margin: 0;
}
</style>
