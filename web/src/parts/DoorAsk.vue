<script setup lang="ts">
/** Would they get in? The door's answer for a call, check by check; nothing is called. */
import { ElOption, ElPopover } from 'element-plus'
import { watchDebounced } from '@vueuse/core'
import { computed, reactive, ref } from 'vue'
import { api, got, type Cue, type Schemas } from '@/api/client'
import { DOOR_CHECKS, ROLE_NAMES } from '@/api/kinds'
import { useGear } from '@/composables/useGear'
import { useReasons } from '@/composables/useReasons'
import { attempt } from '@/composables/useSay'
import NumberField from './NumberField.vue'
import PickField from './PickField.vue'

type Known = Schemas['ViewersOut']['viewers'][number]
const props = defineProps<{ cue: Cue }>()
const gear = useGear()
const reasons = useReasons()
const open = ref(false)
const asked = reactive({
  name: 'hopper_kit',
  role: 'follower',
  text: '',
  air: '',
  scene: '',
  category: '',
  min: 0,
})
const answer = ref<Schemas['DoorOut'] | null>(null)
const known = ref<Known[]>([])
const viewer = computed(() => known.value.find((one) => one.name === asked.name))
const scenes = computed(() => Object.keys(gear.broadcast?.scenes ?? {}))
const roles = Object.entries(ROLE_NAMES).filter(([role]) => role !== 'everyone' && role !== 'streamer')

async function ask(): Promise<void> {
  const body = {
    value: props.cue as unknown as Record<string, never>,
    viewer: { name: asked.name || 'hopper_kit', roles: asked.role ? [asked.role] : [], tier: 1 },
    viewer_id: viewer.value?.id ?? null,
    text: asked.text,
    live: asked.air ? asked.air === 'live' : null,
    scene: asked.scene || null,
    category: asked.category.trim() || null,
    in_min: asked.min,
  }
  await attempt(async () => (answer.value = await got(api.POST('/api/building/door', { body }))))
}

async function find(): Promise<void> {
  const params = { query: { text: asked.name, limit: 20 } }
  known.value = (await got(api.GET('/api/viewers', { params })).catch(() => ({ viewers: [] }))).viewers.slice(
    0,
    20,
  )
  if (viewer.value) asked.role = viewer.value.roles.at(-1) ?? ''
}

watchDebounced(
  [open, () => JSON.stringify(asked), () => JSON.stringify(props.cue)],
  () => {
    if (open.value) void ask()
  },
  { debounce: 250 },
)
</script>

<template>
  <ElPopover
    :persistent="false"
    v-model:visible="open"
    role="dialog"
    aria-label="Would they get in?"
    trigger="click"
    width="400"
    placement="bottom"
    @show="find"
  >
    <template #reference><button class="btn" data-test="door-ask">Would they get in?</button></template>
    <div class="ask">
      <p v-if="answer" class="verdict" :class="{ no: !answer.let_in }" data-test="door-verdict" role="status">
        {{ answer.let_in ? 'Yes, they get in.' : `No: ${answer.reason}.` }}
        <span v-if="answer.note" class="soft small">{{ answer.note }}</span>
      </p>
      <div class="two">
        <label class="field"
          >Viewer<input
            v-model="asked.name"
            class="well"
            maxlength="100"
            list="door-viewers"
            data-test="door-viewer"
            @input="find" /><datalist id="door-viewers">
            <option v-for="one in known" :key="one.id" :value="one.name" /></datalist
        ></label>
        <label class="field"
          >Role
          <PickField v-model="asked.role" data-test="door-role">
            <ElOption value="" label="no role" />
            <ElOption v-for="[role, name] in roles" :key="role" :value="role" :label="name" />
          </PickField>
        </label>
        <label class="field">Text<input v-model="asked.text" class="well" data-test="door-text" /></label>
        <label class="field"
          >Stream
          <PickField v-model="asked.air" data-test="door-live">
            <ElOption value="" label="as now" />
            <ElOption value="live" label="live" />
            <ElOption value="off" label="off air" />
          </PickField>
        </label>
        <label class="field"
          >Scene
          <PickField v-model="asked.scene">
            <ElOption value="" label="as now" />
            <ElOption v-for="name in scenes" :key="name" :value="name" :label="name" />
          </PickField>
        </label>
        <label class="field"
          >Category<input v-model="asked.category" class="well" placeholder="as now"
        /></label>
        <label class="field">In minutes<NumberField v-model="asked.min" :least="0" :most="1440" /></label>
      </div>
      <ul v-if="answer" class="small">
        <li v-for="check in answer.trace" :key="check.check" :class="{ no: !check.passed }">
          <span aria-hidden="true">{{ check.passed ? '✓' : '✕' }}</span>
          <span>{{ DOOR_CHECKS[check.check] ?? check.check }}</span>
          <span class="soft">{{
            check.passed
              ? check.detail
              : [reasons[check.reason ?? ''], check.detail].filter(Boolean).join(', ')
          }}</span>
        </li>
      </ul>
    </div>
  </ElPopover>
</template>

<style scoped>
.ask {
  display: grid;
  gap: 8px;
}

.verdict {
  margin: 0;
  font: 650 18px var(--display);
  color: var(--mint);
}

.verdict.no,
li.no,
li.no .soft {
  color: var(--berry);
}

.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px 10px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 220px;
  overflow: auto;
}

li {
  display: grid;
  grid-template-columns: 16px 130px 1fr;
  gap: 6px;
}
</style>
