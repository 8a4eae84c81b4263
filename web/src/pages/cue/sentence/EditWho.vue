<script setup lang="ts">
import { ElCheckbox, ElOption } from 'element-plus'
import { useGear } from '@/composables/useGear'
import { AIR_NAMES, ROLE_NAMES } from '@/api/kinds'
import { useBook } from '@/composables/useBook'
import { useDraft } from '../draft'
import ConditionList from '@/parts/ConditionList.vue'
import NamesField from '@/parts/NamesField.vue'
import PickField from '@/parts/PickField.vue'

type Role = 'everyone' | 'follower' | 'member' | 'vip' | 'moderator' | 'streamer'
const { cue } = useDraft()
const book = useBook()
const gear = useGear()
const ROLES = Object.entries(ROLE_NAMES) as [Role, string][]

function toggle(role: Role, on: boolean): void {
  if (!cue.value) return
  if (role === 'everyone') {
    cue.value.door.who = on ? ['everyone'] : ['follower']
    return
  }
  const others = cue.value.door.who.filter((r) => r !== 'everyone' && r !== role)
  const next = on ? [...others, role] : others
  cue.value.door.who = next.length ? next : ['everyone']
}

/** Names typed with commas or line ends between them. */
function setList(key: 'shut_out' | 'categories', text: string): void {
  if (cue.value) cue.value.door[key] = [...new Set(text.split(/[,\n]/).map((n) => n.trim()))].filter(Boolean)
}

function spare(role: Role, on: boolean): void {
  if (!cue.value) return
  const rest = cue.value.door.spared.filter((r) => r !== role)
  cue.value.door.spared = on ? [...rest, role] : rest
}

const LISTS = [
  { key: 'who' as const, title: 'Who can call it', roles: ROLES, set: toggle },
  {
    key: 'spared' as const,
    title: 'Exempt from limits',
    roles: ROLES.filter(([role]) => role !== 'everyone'),
    set: spare,
  },
]
</script>

<template>
  <div v-if="cue" class="edit">
    <div class="roles">
      <div v-for="list in LISTS" :key="list.key">
        <h2>{{ list.title }}</h2>
        <ElCheckbox
          v-for="[role, name] in list.roles"
          :key="role"
          class="role"
          :model-value="cue.door[list.key].includes(role)"
          @update:model-value="(on) => list.set(role, Boolean(on))"
        >
          {{ name }}
        </ElCheckbox>
      </div>
    </div>
    <label v-if="cue.door.who.includes('member')" class="field">
      Minimum member tier
      <PickField v-model="cue.door.tier">
        <ElOption v-for="tier in [1, 2, 3]" :key="tier" :value="tier" :label="tier" />
      </PickField>
    </label>
    <label class="field">
      Live or off air
      <PickField
        :model-value="cue.door.air ?? ''"
        data-test="air"
        @update:model-value="cue.door.air = $event || null"
      >
        <ElOption value="" :label="`house default: ${AIR_NAMES[book.book?.house.air ?? 'any']}`" />
        <ElOption v-for="(name, air) in AIR_NAMES" :key="air" :value="air" :label="name" />
      </PickField>
    </label>
    <label class="field">
      Only in these scenes
      <NamesField
        v-model="cue.door.scenes"
        :known="Object.keys(gear.broadcast?.scenes ?? {})"
        placeholder="any scene"
        data-test="door-scenes"
      />
    </label>
    <label class="field">
      Only in these categories
      <input
        class="well"
        placeholder="any category"
        :value="cue.door.categories.join(', ')"
        @change="setList('categories', ($event.target as HTMLInputElement).value)"
      />
    </label>
    <div class="field">
      <span class="soft small">Only if</span>
      <ConditionList v-model="cue.door.only_if" />
    </div>
    <label class="field">
      Blocked viewers
      <input
        class="well"
        placeholder="names, separated by commas"
        :value="cue.door.shut_out.join(', ')"
        @change="setList('shut_out', ($event.target as HTMLInputElement).value)"
      />
    </label>
  </div>
</template>

<style scoped>
.edit {
  display: grid;
  gap: 6px;
}

.roles {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}

.role {
  display: flex;
  height: 28px;
}
</style>
