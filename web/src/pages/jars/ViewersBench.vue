<script setup lang="ts">
/** A jar of viewers: who may be drawn, and everybody who could be drawn now with their odds. */
import { ElOption, ElPopconfirm } from 'element-plus'
import { useIntervalFn } from '@vueuse/core'
import { ref, watch } from 'vue'
import { api, got, type Book, type Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import PickField from '@/parts/PickField.vue'
import JarCrowd from './JarCrowd.vue'
import JarDraws from './JarDraws.vue'
import JarOdds from './JarOdds.vue'

type Jar = Book['jars'][number]

const props = defineProps<{ jar: Jar }>()
const book = useBook()
const odds = ref<Schemas['Odds'] | null>(null)
const RULES: Record<Jar['rule'], string> = {
  any: 'any: each draw is independent',
  no_repeat: 'no repeat: never the same twice in a row',
  bag: 'bag: everybody once, then anew',
}
const LOOKS_MS = 3_000

async function look(): Promise<void> {
  const params = { path: { jar_id: props.jar.id } }
  odds.value = await got(api.GET('/api/jars/{jar_id}/odds', { params })).catch(() => odds.value)
}

watch(() => [props.jar, book.version], look, { immediate: true, deep: true })
useIntervalFn(look, LOOKS_MS)

function put(fields: Partial<Jar>): Promise<unknown> {
  return attempt(() => book.put('jars', { ...props.jar, ...fields }))
}
</script>

<template>
  <div class="bench">
    <section class="card left">
      <input
        class="name"
        :value="jar.name || jar.id"
        aria-label="Jar name"
        @change="put({ name: ($event.target as HTMLInputElement).value })"
      />
      <JarCrowd :count="odds?.total ?? odds?.entries.length ?? 0" />
      <label class="field wide">
        Draw rule
        <PickField :model-value="jar.rule" data-test="rule" @update:model-value="put({ rule: $event })">
          <ElOption v-for="(name, id) in RULES" :key="id" :value="id" :label="name" />
        </PickField>
      </label>
      <ElPopconfirm
        :persistent="false"
        title="Remove this jar? Undo brings it back."
        confirm-button-text="Remove"
        cancel-button-text="Cancel"
        width="240"
        @confirm="attempt(() => book.remove('jars', jar.id))"
      >
        <template #reference><button class="btn tiny danger">Remove</button></template>
      </ElPopconfirm>
    </section>
    <section class="card">
      <h2>Who can be drawn</h2>
      <JarDraws :jar="jar" @put="put" />
    </section>
    <JarOdds v-if="odds?.entries.length" :odds="odds" :drawn="[]" :rule="jar.rule" viewers />
    <section v-else-if="odds" class="card" data-test="nobody">
      <h2>Odds</h2>
      <p class="soft">
        Nobody can be drawn now. Viewers are in the jar once they write, redeem something, or the channel says
        that they watch.
      </p>
    </section>
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: 290px minmax(0, 1fr) 380px;
  gap: 12px;
  align-items: start;
}

.card {
  display: grid;
  gap: 10px;
}

.left {
  justify-items: center;
}

.name {
  font: 680 22px var(--display);
  background: none;
  border: 0;
  text-align: center;
  width: 100%;
}

.wide {
  width: 100%;
}

p {
  margin: 0;
}

@media (max-width: 1120px) {
  .bench {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
