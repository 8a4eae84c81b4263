<script setup lang="ts">
import { ElCheckbox } from 'element-plus'
import { ROLE_NAMES } from '@/logic/sentence'
import { useDraft } from './draft'

type Role = 'everyone' | 'follower' | 'member' | 'vip' | 'moderator' | 'streamer'
const { cue } = useDraft()
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
</script>

<template>
  <div v-if="cue" class="edit">
    <h2>Who may come in</h2>
    <ElCheckbox
      v-for="[role, name] in ROLES"
      :key="role"
      :model-value="cue.door.who.includes(role)"
      @update:model-value="(on) => toggle(role, Boolean(on))"
    >
      {{ name }}
    </ElCheckbox>
    <label v-if="cue.door.who.includes('member')" class="field">
      Members from tier
      <select v-model.number="cue.door.tier" class="well">
        <option v-for="tier in [1, 2, 3]" :key="tier" :value="tier">{{ tier }}</option>
      </select>
    </label>
  </div>
</template>

<style scoped>
.edit {
  display: grid;
  gap: 4px;
}
</style>
