<script setup lang="ts">
/** This computer: starting Cue Jar with it, where its data is, and a report of a problem. */
import { ElSwitch } from 'element-plus'
import { onMounted, ref } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { attempt } from '@/composables/useSay'

const there = ref<Schemas['ComputerOut']>()

onMounted(() =>
  attempt(async () => {
    there.value = await got(api.GET('/api/computer'))
  }),
)

function setStarts(starts: boolean): void {
  void attempt(async () => {
    there.value = await got(api.PUT('/api/computer', { body: { starts } }))
  })
}
</script>

<template>
  <section v-if="there" class="card computer" data-test="computer">
    <div class="row">
      <h2>This computer</h2>
      <span class="soft small">Cue Jar {{ there.version }}</span>
      <span class="grow"></span>
      <a
        class="btn tiny"
        href="/api/computer/report.zip"
        download
        title="Packs the log and what helps to find a problem, without names, passwords and links"
        data-test="report"
      >
        Report a problem
      </a>
    </div>
    <label class="row">
      <ElSwitch
        :model-value="there.starts"
        data-test="starts"
        @update:model-value="setStarts(Boolean($event))"
      />
      Start with the computer
    </label>
    <p class="soft small">
      Data folder <code>{{ there.folder }}</code>
    </p>
  </section>
</template>

<style scoped>
.computer {
  display: grid;
  gap: 8px;
}

p {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
