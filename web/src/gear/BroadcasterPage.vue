<script setup lang="ts">
/** The simulated broadcaster's window: its output, scenes to press, sources and filters to set by hand. */
import { computed } from 'vue'
import { useBroadcaster } from './useBroadcaster'
import { ElOption } from 'element-plus'
import PickField from '@/parts/PickField.vue'
import { pathOf } from '@/logic/paths'

const { state, problem, refusals, hand, rename } = useBroadcaster()
const current = computed(() => state.value?.scenes.find((scene) => scene.name === state.value?.scene))
const sources = computed(() =>
  (current.value?.sources ?? []).flatMap((id) => state.value?.sources.find((s) => s.id === id) ?? []),
)
const filters = computed(() => {
  const here = new Set(sources.value.map((s) => s.name))
  return (state.value?.filters ?? []).filter((f) => here.has(f.source))
})

const settingOf = (filter: { source: string; name: string }, name: string): string =>
  pathOf('broadcast', 'filter', filter.source, filter.name, name)
const shownAt = (source: string): string =>
  pathOf('broadcast', 'source', state.value?.scene ?? '', source, 'visible')

function asNumber(event: Event): number {
  return Number((event.target as HTMLInputElement).value)
}

function newName(what: string, old: string): void {
  const name = window.prompt(`Another name for ${old}`, old)
  if (name && name !== old) void rename(what, old, name)
}
</script>

<template>
  <div class="broadcaster">
    <header class="row">
      <h1>Broadcaster</h1>
      <span class="soft">a stand-in; what you do here is your own hand</span>
      <span class="grow"></span>
      <span v-if="problem" class="wrong">{{ problem }}</span>
    </header>
    <main v-if="state" :key="refusals">
      <figure>
        <img
          :src="`/broadcaster/picture?width=640&n=${state.serial}`"
          alt="The programme"
          data-test="programme"
        />
        <figcaption class="far" data-test="scene">{{ state.scene }}</figcaption>
      </figure>
      <section class="side">
        <h2>Scenes</h2>
        <div class="scenes">
          <button
            v-for="scene in state.scenes"
            :key="scene.id"
            class="btn scene"
            :class="{ on: scene.name === state.scene }"
            :data-test="`scene-${scene.name}`"
            title="Press to show it; double-click to rename it"
            @click="hand('broadcast/scene', scene.name)"
            @dblclick="newName('scene', scene.name)"
          >
            {{ scene.name }}
          </button>
        </div>
        <h2>Sources of {{ state.scene }}</h2>
        <label v-for="source in sources" :key="source.id" class="row line">
          <input
            type="checkbox"
            :checked="Boolean(state.values[shownAt(source.name)])"
            @change="hand(shownAt(source.name), ($event.target as HTMLInputElement).checked)"
          />
          {{ source.name }}
        </label>
      </section>
      <section v-for="filter in filters" :key="filter.id" class="card filter">
        <h2>{{ filter.source }}: {{ filter.name }}</h2>
        <label v-for="(setting, name) in filter.settings" :key="name" class="row line">
          <span class="name soft">{{ name }}</span>
          <input
            v-if="setting.type === 'bool'"
            type="checkbox"
            :checked="Boolean(setting.value)"
            @change="hand(settingOf(filter, name), ($event.target as HTMLInputElement).checked)"
          />
          <template v-else-if="setting.type === 'number'">
            <input
              type="range"
              class="grow"
              :min="setting.min ?? 0"
              :max="setting.max ?? 100"
              :step="((setting.max ?? 100) - (setting.min ?? 0)) / 100"
              :value="Number(setting.value)"
              @change="hand(settingOf(filter, name), asNumber($event))"
            />
            <span class="value">{{ Math.round(Number(setting.value) * 100) / 100 }}</span>
          </template>
          <template v-else-if="setting.type === 'colour'">
            <input
              type="color"
              :value="String(setting.value)"
              @change="hand(settingOf(filter, name), ($event.target as HTMLInputElement).value)"
            />
            <span class="value">{{ setting.value }}</span>
          </template>
          <PickField
            v-else
            :model-value="String(setting.value)"
            @update:model-value="hand(settingOf(filter, name), $event)"
          >
            <ElOption v-for="choice in setting.choices" :key="choice" :value="choice" :label="choice" />
          </PickField>
        </label>
      </section>
      <section class="card filter">
        <h2>Inputs</h2>
        <p v-for="input in state.inputs" :key="input.id" class="row line">
          <span class="name">{{ input.name }}</span>
          <progress class="grow" :value="input.volume.value" max="1"></progress>
          <span class="value">{{ Math.round(input.volume.value * 100) }} %</span>
        </p>
      </section>
    </main>
  </div>
</template>

<style scoped>
.broadcaster {
  max-width: 1180px;
  margin: 0 auto;
  padding: 16px 20px;
}

main {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 14px;
  margin-top: 12px;
}

figure {
  grid-column: span 2;
  margin: 0;
  position: relative;
}

figure img {
  width: 100%;
  display: block;
  aspect-ratio: 16 / 9;
  border: 1px solid var(--line);
}

figcaption {
  position: absolute;
  left: 12px;
  bottom: 12px;
  padding: 2px 12px;
  background: var(--ground);
}

.side {
  display: grid;
  align-content: start;
  gap: 8px;
}

.scenes {
  display: grid;
  gap: 6px;
}

.scene.on {
  border-color: var(--slate);
  border-left-width: 8px;
  font-weight: 700;
}

.line {
  margin: 0;
  min-height: 30px;
}

.filter {
  display: grid;
  gap: 4px;
  align-content: start;
}

.name {
  width: 100px;
}

.value {
  width: 76px;
  text-align: right;
}

.wrong {
  color: var(--berry);
}
</style>
