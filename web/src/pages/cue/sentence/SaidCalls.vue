<script setup lang="ts">
/** A phrase that the streamer says, and its sounds if the dictionary lacks its words. */
import { ref } from 'vue'
import type { Call } from '@/api/client'

const emit = defineEmits<{ add: [call: Call] }>()
const phrase = ref('')
const sounds = ref('')

function add(): void {
  if (phrase.value.trim())
    emit('add', { kind: 'said', phrase: phrase.value.trim(), sounds: sounds.value.trim() } as Call)
  phrase.value = ''
  sounds.value = ''
}
</script>

<template>
  <form class="said" @submit.prevent="add">
    <input
      v-model="phrase"
      class="well grow"
      maxlength="80"
      placeholder="mind the gap"
      aria-label="Phrase"
      data-test="phrase"
    />
    <button class="btn" :disabled="!phrase.trim()" data-test="add-said">Add</button>
    <input
      v-model="sounds"
      class="well whole"
      maxlength="300"
      placeholder="Sounds, if it has a rare word: T IH N W IH S AH L"
      aria-label="Sounds"
    />
    <p class="soft small whole">
      Two words or more. Train it under <RouterLink to="/phrases">Pads, Phrases</RouterLink>.
    </p>
  </form>
</template>

<style scoped>
.said {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

.whole {
  flex: 1 0 100%;
  margin: 0;
}
</style>
