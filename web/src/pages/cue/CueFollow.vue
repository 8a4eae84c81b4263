<script setup lang="ts">
/** Something that came with a cue still has the cue's old name: offers to rename it too. */
import { computed, ref, watch } from 'vue'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { jarIn } from '@/logic/beats'
import { useDraft } from './draft'

const book = useBook()
const draft = useDraft()
const was = ref(draft.cue.value?.name ?? '')
const left = ref(false)
watch(
  () => draft.cue.value?.id,
  () => {
    was.value = draft.cue.value?.name ?? ''
    left.value = false
  },
)

const rewards = computed(() =>
  (book.book?.rewards ?? []).filter(
    (reward) =>
      reward.title === was.value &&
      draft.cue.value?.calls.some((call) => call.kind === 'reward' && call.reward === reward.id),
  ),
)
const jars = computed(() =>
  (book.book?.jars ?? []).filter(
    (jar) =>
      (jar.name || jar.id) === was.value &&
      draft.beats.value.some((beat) =>
        [beat.media, beat.text, beat.colour, beat.cue].some((one) => jarIn(one) === jar.id),
      ),
  ),
)
const words = computed(() =>
  [rewards.value.length ? 'reward' : '', jars.value.length ? 'jar' : ''].filter(Boolean).join(' and '),
)
const offers = computed(() => {
  const name = draft.cue.value?.name.trim()
  return (
    !left.value && draft.state.value === 'saved' && Boolean(name) && name !== was.value && words.value !== ''
  )
})

async function follow(): Promise<void> {
  const name = draft.cue.value?.name.trim() ?? ''
  await attempt(async () => {
    for (const reward of rewards.value) await book.put('rewards', { ...reward, title: name })
    for (const jar of jars.value) await book.put('jars', { ...jar, name })
    was.value = name
  })
}
</script>

<template>
  <p v-if="offers" class="row small follow" data-test="follow">
    Its {{ words }} {{ words.includes(' and ') ? 'are' : 'is' }} still called “{{ was }}”.
    <button class="btn tiny" data-test="follow-name" @click="follow">Rename too</button>
    <button class="btn bare tiny" @click="left = true">Keep</button>
  </p>
</template>

<style scoped>
.follow {
  margin: 0;
  color: var(--soft);
}
</style>
