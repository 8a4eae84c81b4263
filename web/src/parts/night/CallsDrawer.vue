<script setup lang="ts">
/** The calls behind a figure: each leads to its moment. */
import { ElDrawer } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useReasons } from '@/composables/useReasons'
import { callsBehind, callsOf, clock, type Call, type Timeline } from '@/logic/nights'

const props = defineProps<{
  night: Timeline
  figure: string
  title: string
  more: string
  names: Map<string, string>
}>()
const shown = defineModel<boolean>({ required: true })
const emit = defineEmits<{ go: [call: Call] }>()
const reasons = useReasons()
const MANY = 200
const most = ref(MANY)
const calls = computed(() => callsBehind(props.figure, callsOf(props.night), props.more))
watch(calls, () => (most.value = MANY))
const became = (call: Call): string =>
  call.reason
    ? (reasons.value[call.reason] ?? call.reason)
    : [call.extended ? 'extended it' : '', call.outcome].filter(Boolean).join(', ') || 'let in'
</script>

<template>
  <ElDrawer
    v-model="shown"
    :title="`${title}: ${calls.length} ${calls.length === 1 ? 'call' : 'calls'}`"
    size="min(720px, 100%)"
    append-to="#over"
  >
    <p v-if="!calls.length" class="soft">None in this night.</p>
    <table v-else class="calls" data-test="calls">
      <thead>
        <tr>
          <th>At</th>
          <th>Who</th>
          <th>Called</th>
          <th>Text</th>
          <th class="number">Waited</th>
          <th>Result</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(call, i) in calls.slice(0, most)" :key="i">
          <td>
            <button class="btn tiny" @click="emit('go', call)">{{ clock(call.at, true) }}</button>
          </td>
          <td>{{ call.who }}</td>
          <td>{{ names.get(call.cue) ?? call.cue }}</td>
          <td class="text">{{ call.text }}</td>
          <td class="number">{{ call.waited === null ? '' : `${(call.waited / 1000).toFixed(1)} s` }}</td>
          <td>{{ became(call) }}</td>
        </tr>
      </tbody>
    </table>
    <button v-if="calls.length > most" class="btn" @click="most += MANY">Show more</button>
  </ElDrawer>
</template>

<style scoped>
.calls {
  width: 100%;
  border-collapse: collapse;
  font-size: 14px;
}

th {
  color: var(--soft);
  font-weight: 400;
  text-align: left;
}

th,
td {
  padding: 4px 8px 4px 0;
  border-bottom: 1px solid var(--line);
  vertical-align: top;
}

.number {
  text-align: right;
  white-space: nowrap;
}

.text {
  overflow-wrap: anywhere;
}
</style>
