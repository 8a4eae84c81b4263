<script setup lang="ts">
/** Who may be drawn from a jar of viewers, and how much more likely some are. */
import { ElCheckbox, ElCheckboxGroup, ElOption } from 'element-plus'
import { computed } from 'vue'
import type { Book, Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import NumberField from '@/parts/NumberField.vue'
import PickField from '@/parts/PickField.vue'

type Draws = Schemas['Draws']
type Role = keyof NonNullable<Draws['weights']>

const props = defineProps<{ jar: Book['jars'][number] }>()
const emit = defineEmits<{ put: [fields: Partial<Book['jars'][number]>] }>()
const book = useBook()
const draws = computed(() => props.jar.draws)
const WHO: Record<Draws['who'], string> = {
  present: 'who is there now',
  redeemed: 'who redeemed something tonight',
  members: 'members who were there tonight',
  list: 'the names in a list',
}
const ROLES: Partial<Record<Role, string>> = {
  follower: 'followers',
  member: 'members',
  vip: 'VIPs',
  moderator: 'moderators',
}
const names = computed(() => props.jar.entries.map((entry) => entry.value).join('\n'))

function set(fields: Partial<Draws>): void {
  emit('put', { draws: { ...draws.value, ...fields } })
}

function weigh(role: Role, weight: number): void {
  const others = Object.entries(draws.value.weights).filter(([one]) => one !== role)
  set({ weights: Object.fromEntries(weight === 1 ? others : [...others, [role, weight]]) })
}

function list(text: string): void {
  const known = new Map(props.jar.entries.map((entry) => [entry.value, entry]))
  const wanted = [...new Set(text.split(/[,\n]/).map((name) => name.trim()))].filter(Boolean)
  emit('put', {
    entries: wanted.map((value) => known.get(value) ?? { value, name: '', weight: 1, on: true }),
  })
}
</script>

<template>
  <div class="draws">
    <label class="field">
      Draws from
      <PickField :model-value="draws.who" data-test="who" @update:model-value="set({ who: $event })">
        <ElOption v-for="(name, id) in WHO" :key="id" :value="id" :label="name" />
      </PickField>
    </label>
    <label v-if="draws.who === 'present'" class="field">
      Seen within, min
      <NumberField
        :least="1"
        :most="1440"
        :model-value="draws.within_min"
        data-test="within"
        whole
        @update:model-value="set({ within_min: $event })"
      />
    </label>
    <label v-if="draws.who === 'list'" class="field">
      Names, one per line
      <textarea
        class="well"
        rows="5"
        :value="names"
        data-test="names"
        @change="list(($event.target as HTMLTextAreaElement).value)"
      ></textarea>
    </label>
    <div class="field">
      <span>Only</span>
      <ElCheckboxGroup
        class="only"
        :model-value="draws.roles"
        aria-label="Only these"
        @update:model-value="set({ roles: $event as Draws['roles'] })"
      >
        <ElCheckbox v-for="(name, role) in ROLES" :key="role" :value="role">{{ name }}</ElCheckbox>
      </ElCheckboxGroup>
      <ElCheckbox
        :model-value="draws.new_only"
        data-test="new-only"
        @update:model-value="set({ new_only: Boolean($event) })"
        >first time here tonight</ElCheckbox
      >
    </div>
    <div class="two">
      <label v-if="draws.roles.includes('member') || draws.who === 'members'" class="field">
        Members from tier
        <NumberField
          :least="1"
          :most="10"
          :model-value="draws.tier"
          whole
          @update:model-value="set({ tier: $event })"
        />
      </label>
      <label v-if="book.book?.points.on || draws.points_from" class="field">
        With points, at least
        <NumberField
          :least="0"
          :model-value="draws.points_from"
          whole
          @update:model-value="set({ points_from: $event })"
        />
      </label>
    </div>
    <div class="field">
      <span>Chances compared with others</span>
      <div class="weights">
        <label v-for="(name, role) in ROLES" :key="role" class="field">
          {{ name }}
          <NumberField
            :least="0"
            :most="1000"
            :step="0.5"
            :model-value="draws.weights[role] ?? 1"
            :data-test="`weight-${role}`"
            narrow
            @update:model-value="weigh(role, $event)"
          />
        </label>
      </div>
    </div>
    <ElCheckbox
      :model-value="draws.caller"
      data-test="caller"
      @update:model-value="set({ caller: Boolean($event) })"
      >Whoever calls can be drawn, too</ElCheckbox
    >
    <p class="soft small">Never: you, blocked viewers, and the bots under Rig, House.</p>
  </div>
</template>

<style scoped>
.draws {
  display: grid;
  gap: 10px;
}

.only {
  display: flex;
  flex-wrap: wrap;
  gap: 0 16px;
}

.two,
.weights {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(96px, 1fr));
  gap: 8px;
}

p {
  margin: 0;
}
</style>
