<script setup lang="ts">
/** The address of a piece of gear, its secret, and its rest. */
import { ElPopconfirm } from 'element-plus'
import { computed, ref } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useGear, type GearState } from '@/composables/useGear'
import { covered } from '@/composables/useLook'
import { attempt, say } from '@/composables/useSay'

const props = defineProps<{ gear: GearState }>()
const emit = defineEmits<{ set: [fields: Record<string, unknown>] }>()
const resting = defineModel<boolean>('resting', { required: true })
const book = useBook()
const all = useGear()
const secret = ref('')
/** Other possible addresses. */
const HINTS: Record<string, string> = { keys: ', keyboard: or hands:', lights: ' or sacn://multicast' }
const entry = computed(() => book.book?.gear.find((g) => g.id === props.gear.id))
/** The name of its secret; gear without one has none. */
const kind = computed(() => all.kindOf(props.gear.kind))
const secretName = computed(() => kind.value.secret)
const hint = computed(
  () => `${kind.value.scheme && `${kind.value.scheme}://…`}${HINTS[props.gear.kind] ?? ''}`,
)
/** Gear that reports changes by hand is changed there; other gear here. */
const tells = computed(() => kind.value.tells)
const path = computed(() => ({ path: { gear_id: props.gear.id } }))

async function keepSecret(): Promise<void> {
  await attempt(async () => {
    await got(api.PUT('/api/gear/{gear_id}/secret', { params: path.value, body: { secret: secret.value } }))
    secret.value = ''
    say(`The ${secretName.value.toLowerCase()} is saved.`, 'fine')
    await all.load()
  })
}

async function takeAsRest(): Promise<void> {
  await attempt(async () => {
    say((await got(api.POST('/api/gear/{gear_id}/keep-as-rest', { params: path.value }))).what, 'fine')
    await all.load()
  })
}
</script>

<template>
  <div class="set-up">
    <label class="field"
      >Address<input
        class="well"
        :value="covered && gear.address ? '•••• covered ••••' : (entry?.address ?? '')"
        :readonly="covered && Boolean(gear.address)"
        :placeholder="gear.address || hint"
        @change="emit('set', { address: ($event.target as HTMLInputElement).value.trim() })"
    /></label>
    <form v-if="secretName" class="field" @submit.prevent="keepSecret">
      <label class="field"
        >{{ secretName }}{{ gear.has_secret ? ' (saved)' : '' }}
        <span class="row">
          <input
            v-model="secret"
            class="well"
            type="password"
            autocomplete="off"
            :placeholder="gear.has_secret ? '•••••' : 'not set'"
          />
          <button class="btn tiny" :disabled="!secret">Keep</button>
        </span>
      </label>
    </form>
    <div class="row wrap">
      <ElPopconfirm
        :persistent="false"
        v-if="tells"
        title="Its current state becomes the rest values, and holds on it end."
        confirm-button-text="Use as rest"
        cancel-button-text="Cancel"
        width="280"
        @confirm="takeAsRest"
      >
        <template #reference><button class="btn tiny">Use current state as rest</button></template>
      </ElPopconfirm>
      <button
        v-if="gear.kind !== 'channel'"
        class="btn tiny"
        :disabled="!gear.properties.length"
        :aria-expanded="resting"
        data-test="rest-values"
        @click="resting = !resting"
      >
        {{ resting ? 'Hide' : 'Show' }} {{ gear.properties.length }} rest values
      </button>
      <span class="grow"></span>
      <ElPopconfirm
        :persistent="false"
        title="Remove this gear from the rig?"
        confirm-button-text="Remove"
        cancel-button-text="Keep"
        @confirm="attempt(() => book.remove('gear', gear.id))"
      >
        <template #reference><button class="btn tiny danger">Remove</button></template>
      </ElPopconfirm>
    </div>
  </div>
</template>

<style scoped>
.set-up {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
  align-content: start;
}

.wrap {
  flex-wrap: wrap;
}
</style>
