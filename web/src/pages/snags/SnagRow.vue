<script setup lang="ts">
import { ref } from 'vue'
import type { Snag } from '@/composables/useSnags'

const props = defineProps<{ snag: Snag }>()
const emit = defineEmits<{ mend: []; hide: [reason: string | null] }>()
const hiding = ref(false)
const reason = ref('')

function hide(): void {
  if (!reason.value.trim()) return
  emit('hide', reason.value.trim())
  hiding.value = false
}
const focus = (field: unknown): void => (field as HTMLInputElement | null)?.focus()
</script>

<template>
  <li :class="snag.grade" :data-check="snag.check">
    <span class="mark" aria-hidden="true">{{ snag.grade === 'error' ? '✕' : '▲' }}</span>
    <div class="grow">
      <p>
        <span class="unseen">{{ snag.grade === 'error' ? 'Cannot work: ' : 'To look at: ' }}</span>{{
          snag.what
        }}
      </p>
      <p v-if="snag.hidden !== null" class="soft small">Hidden: {{ snag.hidden }}</p>
      <p v-else-if="!snag.change" class="soft small">{{ snag.mend }}</p>
      <form v-if="hiding" class="row" @submit.prevent="hide">
        <input
          :ref="focus"
          v-model="reason"
          class="well grow"
          maxlength="200"
          placeholder="Reason for hiding"
          aria-label="Reason"
          @keydown.esc="hiding = false"
        />
        <button class="btn tiny main" :disabled="!reason.trim()">Hide</button>
        <button type="button" class="btn tiny" @click="hiding = false">Cancel</button>
      </form>
    </div>
    <template v-if="!hiding">
      <button v-if="snag.change && snag.hidden === null" class="btn tiny main" @click="$emit('mend')">
        {{ snag.mend }}
      </button>
      <button v-if="props.snag.hidden === null" class="btn tiny" @click="hiding = true">Hide…</button>
      <button v-else class="btn tiny" @click="$emit('hide', null)">Unhide</button>
    </template>
  </li>
</template>

<style scoped>
li {
  display: flex;
  align-items: flex-start;
  gap: 10px;
  padding-top: 8px;
  border-top: 1px solid var(--line);
}

p {
  margin: 0;
}

.mark {
  color: var(--marmalade);
}

.error .mark {
  color: var(--berry);
}

@media (max-width: 600px) {
  li {
    flex-wrap: wrap;
  }
}
</style>
