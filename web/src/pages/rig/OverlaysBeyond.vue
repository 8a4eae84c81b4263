<script setup lang="ts">
/** Overlays on other computers of the house: where they may connect. */
import { onMounted, ref } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { attempt } from '@/composables/useSay'
import AllowFrom from '@/parts/AllowFrom.vue'

const emit = defineEmits<{ begins: [begins: string] }>()
const where = ref<Schemas['OverlaysBeyond']>()

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
    <AllowFrom :where="where" :listen="listen" data-test="overlays-beyond" />
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

p {
  margin: 0;
}
</style>
