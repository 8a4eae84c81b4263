<script setup lang="ts">
/** How a hook is sent, and which hosts hooks may call. */
import { computed } from 'vue'
import { useBook } from '@/composables/useBook'
import { covered } from '@/composables/useLook'
import { attempt } from '@/composables/useSay'
import type { GearState } from '@/composables/useGear'
import DurationField from '@/parts/DurationField.vue'
import { ElOption } from 'element-plus'
import PickField from '@/parts/PickField.vue'
import NumberField from '@/parts/NumberField.vue'

const props = defineProps<{ gear: GearState }>()
const EXAMPLE = '{"viewer": "{{viewer}}", "text": "{{text}}"}'
const book = useBook()
const entry = computed(() => book.book?.gear.find((g) => g.id === props.gear.id))
const hook = computed(() => entry.value?.hook)
const places = computed(() => book.book?.house.hook_places ?? [])
const host = computed(() => {
  try {
    return new URL((entry.value?.address ?? '').replace(/\{\{[^}]*\}\}/g, 'x')).hostname
  } catch {
    return ''
  }
})
const may = computed(() => places.value.find((p) => p.host === host.value))
const headers = computed(() =>
  Object.entries(hook.value?.headers ?? {})
    .map(([name, value]) => `${name}: ${value}`)
    .join('\n'),
)

function set(fields: Record<string, unknown>): void {
  void attempt(async () => {
    if (entry.value) await book.put('gear', { ...entry.value, hook: { ...hook.value, ...fields } })
  })
}

function setHeaders(text: string): void {
  const rows = text
    .split('\n')
    .map((line) => line.split(/:\s*(.*)/s))
    .filter(([name]) => name?.trim())
    .map(([name, value]) => [name!.trim(), (value ?? '').trim()])
  set({ headers: Object.fromEntries(rows) as Record<string, string> })
}

function allow(on: boolean, isPrivate: boolean): void {
  const rest = places.value.filter((p) => p.host !== host.value)
  const next = on ? [...rest, { host: host.value, private: isPrivate }] : rest
  void attempt(() => book.putHouse({ hook_places: next }))
}
const valueOf = (event: Event): string => (event.target as HTMLInputElement).value
</script>

<template>
  <div v-if="hook" class="setup small">
    <div class="three">
      <label class="field"
        >Method<PickField :model-value="hook.method" @update:model-value="set({ method: $event })">
          <ElOption value="POST" label="POST" />
          <ElOption value="GET" label="GET" />
        </PickField>
      </label>
      <label class="field"
        >Timeout<DurationField
          :model-value="hook.timeout_s"
          :least="0.1"
          @update:model-value="set({ timeout_s: $event })"
      /></label>
      <label class="field"
        >Maximum tries<NumberField
          :least="1"
          :most="8"
          :model-value="hook.tries"
          @update:model-value="set({ tries: $event })"
          whole
      /></label>
    </div>
    <div class="two">
      <label class="field"
        >Body (JSON with templates)<textarea
          class="well"
          rows="3"
          :value="hook.body"
          :placeholder="EXAMPLE"
          @change="set({ body: valueOf($event) })"
        ></textarea>
      </label>
      <label class="field"
        >Headers, one per line<textarea
          class="well"
          rows="3"
          :value="covered && headers ? '•••• covered ••••' : headers"
          :readonly="covered && Boolean(headers)"
          placeholder="X-Station: Tinwhistle Halt"
          @change="setHeaders(valueOf($event))"
        ></textarea>
      </label>
    </div>
    <div v-if="host" class="row wrap">
      <template v-if="!may">
        <span class="wrong">Hooks to {{ host }} aren’t allowed yet.</span>
        <button class="btn tiny" data-test="allow-host" @click="allow(true, false)">Allow</button>
        <button class="btn tiny" data-test="allow-private" @click="allow(true, true)">
          Allow, also on this computer and network
        </button>
      </template>
      <template v-else>
        <span
          >Hooks to {{ host }}{{ may.private ? ', also on this computer and network,' : '' }} are
          allowed.</span
        >
        <button class="btn tiny" @click="allow(false, false)">Revoke</button>
      </template>
    </div>
  </div>
</template>

<style scoped>
.setup {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
}

.three {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 10px;
}

.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}

.wrap {
  flex-wrap: wrap;
}

.wrong {
  color: var(--berry);
}

@media (max-width: 1120px) {
  .three {
    grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  }
}
</style>
