<script setup lang="ts">
/** The simulated avatar's window. */
import { computed } from 'vue'
import AvatarPicture from '@/parts/gear/AvatarPicture.vue'
import { useStandIn, type PanelState } from './useStandIn'
import WindowFrame from './WindowFrame.vue'
import { pathOf } from '@/logic/paths'

const { state, problem, hand } = useStandIn<PanelState & { faces: string[] }>('avatar')
const value = (key: string): string => String(state.value?.values[pathOf('avatar', key)] ?? '')
/** The expressions that are on, the latest on top. */
const faces = computed(() => state.value?.faces ?? [])
const CHOICES = ['model', 'outfit', 'pose'] as const
</script>

<template>
  <WindowFrame name="Avatar" mark="avatar" :problem="problem">
    <div v-if="state" class="two">
      <AvatarPicture
        class="picture"
        :model="value('model')"
        :outfit="value('outfit')"
        :pose="value('pose')"
        :expressions="faces"
      />
      <div class="side">
        <section v-for="what in CHOICES" :key="what" class="card">
          <h2>{{ what.charAt(0).toUpperCase() + what.slice(1) }}</h2>
          <div class="row wrap">
            <button
              v-for="name in state.names[what]"
              :key="name"
              class="btn"
              :class="{ on: name === value(what) }"
              :data-test="`${what}-${name}`"
              @click="hand({ path: pathOf('avatar', what), value: name })"
            >
              {{ name }}
            </button>
          </div>
        </section>
        <section class="card">
          <h2>Expressions</h2>
          <label v-for="name in state.names.expression" :key="name" class="row">
            <input
              type="checkbox"
              :checked="faces.includes(name)"
              @change="
                hand({
                  path: pathOf('avatar', 'expression', name),
                  value: ($event.target as HTMLInputElement).checked ? 'on' : 'off',
                })
              "
            />{{ name }}
          </label>
        </section>
      </div>
    </div>
  </WindowFrame>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 420px 1fr;
  gap: 16px;
}

.side {
  display: grid;
  gap: 12px;
  align-content: start;
}

.wrap {
  flex-wrap: wrap;
}

.on {
  border-color: var(--lilac);
  border-left-width: 8px;
  font-weight: 700;
}
</style>
