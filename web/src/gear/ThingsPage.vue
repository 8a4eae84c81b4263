<script setup lang="ts">
/** The window of the simulated bridge: the things of the yard, their values, all of them changeable by hand. */
import type { Schemas } from '@/api/client'
import SettingField, { type SettingValue } from '@/parts/SettingField.vue'
import { sayValue } from '@/logic/words'
import YardPicture from './YardPicture.vue'
import { useStandIn } from './useStandIn'
import WindowFrame from './WindowFrame.vue'

type Told = Omit<Schemas['SettingOut'], 'choices'> & { id: string; name: string; choices?: string[] }
interface ThingsState {
  serial: number
  things: {
    id: string
    name: string
    settings: (Told & { value: SettingValue; by: string })[]
    deeds: { id: string; name: string; values: Told[] }[]
  }[]
  values: Record<string, SettingValue>
  done: { thing: string; deed: string; values: Record<string, SettingValue>; by: string; number: number }[]
}
const { state, problem, hand } = useStandIn<ThingsState>('things', 150)

const BY: Record<string, string> = { hand: 'by hand', start: 'unchanged', 'cue-jar': 'by Cue Jar' }
const kindOf = (told: Told): Schemas['SettingOut'] => ({ ...told, choices: told.choices ?? [] })
const nameOf = (id: string): string => state.value?.things.find((thing) => thing.id === id)?.name ?? id

function least(values: Told[]): Record<string, SettingValue> {
  return Object.fromEntries(values.map((one) => [one.id, one.min ?? 1]))
}
</script>

<template>
  <WindowFrame name="The yard" mark="things" :problem="problem">
    <template v-if="state">
      <YardPicture class="card" :values="state.values" :done="state.done" />
      <section class="board">
        <article v-for="thing in state.things" :key="thing.id" class="card" :data-test="`thing-${thing.id}`">
          <h2>{{ thing.name }}</h2>
          <label v-for="one in thing.settings" :key="one.id" class="field"
            ><span class="row"
              >{{ one.name }}<span class="grow"></span
              ><span class="soft small">{{ BY[one.by] ?? one.by }}</span></span
            ><SettingField
              :kind="kindOf(one)"
              :model-value="one.value"
              :data-test="`${thing.id}-${one.id}`"
              @update:model-value="hand({ thing: thing.id, setting: one.id, value: $event })"
          /></label>
          <button
            v-for="deed in thing.deeds"
            :key="deed.id"
            class="btn"
            @click="hand({ thing: thing.id, deed: deed.id, values: least(deed.values) })"
          >
            {{ deed.name }}
          </button>
        </article>
      </section>
      <h2>Recent actions</h2>
      <p v-if="!state.done.length" class="soft">Nothing yet.</p>
      <ol>
        <li v-for="one in [...state.done].reverse().slice(0, 8)" :key="one.number">
          {{ nameOf(one.thing) }}: {{ one.deed }}
          <span v-for="(value, name) in one.values" :key="name">{{ name }} {{ sayValue(value) }}</span>
          <span class="soft">{{ BY[one.by] ?? one.by }}</span>
        </li>
      </ol>
    </template>
  </WindowFrame>
</template>

<style scoped>
.board {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(260px, 1fr));
  gap: 12px;
}

article {
  display: grid;
  gap: 10px;
  align-content: start;
}

h2 {
  margin: 0;
}

ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}

li {
  display: flex;
  gap: 12px;
}
</style>
