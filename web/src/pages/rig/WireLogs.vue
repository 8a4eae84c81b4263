<script setup lang="ts">
/** Unreadable messages of a wire, newest first, so that whoever builds the other side can fix it. */
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { useLive } from '@/composables/useLive'
import { sayNumber, sayTime } from '@/logic/words'

/** Only the wire of one piece of gear. */
const props = defineProps<{ only?: string }>()
const wires = ref<Record<string, Schemas['WireOut']>>({})
const open = ref<string | null>(props.only ?? null)
const odd = computed(() =>
  Object.entries(wires.value).filter(
    ([name, wire]) => wire.count > 0 && (!props.only || props.only === name),
  ),
)

const live = useLive()
const nameOf = (id: string): string => live.state?.gear.find((row) => row.id === id)?.name ?? id

async function look(): Promise<void> {
  try {
    wires.value = await got(api.GET('/api/wires'))
  } catch {
    // The foot of the window says that Cue Jar doesn't answer.
  }
}
void look()
useIntervalFn(look, 5000)
</script>

<template>
  <section v-if="odd.length" class="card wires" data-test="wires">
    <div v-for="[name, wire] in odd" :key="name">
      <div class="row">
        <strong>{{ nameOf(name) }}</strong>
        <span class="grow"
          >{{ sayNumber(wire.count) }} {{ wire.count === 1 ? 'message' : 'messages' }} could not be read and
          {{ wire.count === 1 ? 'was' : 'were' }} left out</span
        >
        <button
          class="btn tiny"
          :aria-expanded="open === name"
          :data-test="`wire-${name}`"
          @click="open = open === name ? null : name"
        >
          {{ open === name ? 'Hide' : 'Show' }}
        </button>
      </div>
      <table v-if="open === name">
        <tbody>
          <tr v-for="(row, i) in wire.left_out.slice(0, 50)" :key="i">
            <td class="soft small">{{ sayTime(row.at) }}</td>
            <td class="why">{{ row.why }}</td>
            <td>
              <code>{{ row.what }}</code>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.wires {
  display: grid;
  gap: 8px;
}

table {
  width: 100%;
  margin-top: 6px;
  border-collapse: collapse;
  table-layout: fixed;
}

td {
  padding: 4px 8px 4px 0;
  vertical-align: top;
  border-top: 1px solid var(--line);
  overflow-wrap: anywhere;
}

td:first-child {
  width: 110px;
}

.why {
  width: 34%;
}

code {
  font-size: 13px;
}
</style>
