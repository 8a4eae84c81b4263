<script setup lang="ts">
/** A chat message that calls the cue, and a test of existing ones. */
import { ElOption } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import type { Call } from '@/api/client'
import PickField from '@/parts/PickField.vue'
import { useDraft } from '../draft'

const emit = defineEmits<{ add: [call: Call] }>()
const { cue } = useDraft()
const word = ref('')
const match = ref<'is' | 'starts' | 'has_word' | 'contains'>('is')
const message = ref('')
const heard = ref<Schemas['MatchOut'][]>([])

const chats = computed(() => (cue.value?.calls ?? []).filter((call) => call.kind === 'chat'))
/** The test message, compared with every chat call as on air. */
watch([message, chats], async () => {
  const calls = JSON.parse(JSON.stringify(chats.value)) as Schemas['MatchIn']['calls']
  heard.value =
    message.value && calls.length
      ? await got(api.POST('/api/cues/match', { body: { calls, text: message.value } })).catch(() => [])
      : []
})
const verdict = computed(() => {
  if (!heard.value.length) return ''
  const made = heard.value.find((one) => one.matches)
  if (!made) return 'doesn’t call it'
  return made.text && made.text !== message.value ? `calls it, with the text “${made.text}”` : 'calls it'
})

function add(): void {
  if (!word.value.trim()) return
  emit('add', { kind: 'chat', match: match.value, text: word.value.trim(), cost: null })
  word.value = ''
}
</script>

<template>
  <form class="row" @submit.prevent="add">
    <PickField v-model="match" class="match" aria-label="Match">
      <ElOption value="is" label="message is" />
      <ElOption value="starts" label="starts with" />
      <ElOption value="has_word" label="has word" />
      <ElOption value="contains" label="contains" />
    </PickField>
    <input v-model="word" class="well grow" placeholder="!whistle" aria-label="Message" />
    <button class="btn" data-test="add-chat">Add</button>
  </form>
  <label v-if="chats.length" class="field">
    Try a message
    <input v-model="message" class="well" data-test="match" placeholder="Test message" />
    <span v-if="verdict" data-test="verdict" :class="verdict.startsWith('calls') ? 'fine' : 'wrong'">{{
      verdict
    }}</span>
  </label>
</template>

<style scoped>
.match {
  width: 130px;
}

.fine {
  color: var(--mint);
}

.wrong {
  color: var(--berry);
}
</style>
