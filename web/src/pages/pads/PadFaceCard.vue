<script setup lang="ts">
import { ElSegmented, ElSwitch } from 'element-plus'
import { computed, ref } from 'vue'
import type { Cue } from '@/api/client'
import { usePadOrder } from '@/composables/usePadOrder'
import { useTold } from '@/composables/useTold'
import { attempt } from '@/composables/useSay'
import { keysOf, PAD_KEYS } from '@/logic/pads'
import { PAD_COLOURS, PAD_MARKS, type Face } from '@/parts/pads/marks'

const props = defineProps<{ cue: Cue }>()
defineEmits<{ done: [] }>()
const { face, withPad } = usePadOrder()
const SIZES: { value: Face['size']; label: string }[] = [
  { value: 'small', label: 'Small' },
  { value: 'wide', label: 'Wide' },
  { value: 'large', label: 'Large' },
]

const told = useTold()
const keys = computed(() => keysOf(withPad.value))
/** The other pad that has the key that was just pressed, if any. */
const had = ref('')

/** Gives the pressed key to the pad, and takes it from another one that had it as its own. */
async function setKey(event: KeyboardEvent): Promise<void> {
  const key = event.key.toLowerCase()
  if (event.key === 'Tab' || event.key === 'Escape') return
  event.preventDefault()
  had.value = ''
  if (event.key === 'Backspace' || event.key === 'Delete') return change({ key: null })
  if (event.ctrlKey || event.metaKey || event.altKey) return
  if (!PAD_KEYS.includes(key)) {
    had.value = `${event.key} can’t be a pad key. Use a letter.`
    return
  }
  const other = withPad.value.find((one) => one.id !== props.cue.id && keys.value.get(one.id) === key)
  if (other) had.value = `${key.toUpperCase()} was the key of ${other.name}.`
  await attempt(async () => {
    if (other?.pad.key === key) await face(other, { key: null })
    await face(props.cue, { key })
  })
}

const change = (to: Partial<Face>): void => void attempt(() => face(props.cue, to))
</script>

<template>
  <section class="card" aria-label="This pad">
    <div class="card-title">
      <h2 class="grow">{{ cue.name }}</h2>
      <RouterLink class="small" :to="`/cues/${cue.id}`">Open the cue</RouterLink>
      <button class="btn tiny" @click="$emit('done')">Done</button>
    </div>
    <p class="does">{{ told.of(cue.id) }}</p>
    <label class="row">
      <span class="grow">Show a pad</span>
      <ElSwitch
        :model-value="cue.pad.on"
        aria-label="Show a pad"
        @update:model-value="change({ on: Boolean($event) })"
      />
    </label>
    <label class="row">
      <span class="grow">Desk key</span>
      <input
        class="well pad-key"
        readonly
        :value="(keys.get(cue.id) ?? '').toUpperCase()"
        placeholder="none"
        aria-label="Desk key: press it here"
        data-test="pad-key"
        @keydown="setKey"
      />
    </label>
    <p class="soft small">
      {{ had || 'Press a key in the field. Backspace clears it.' }}
    </p>
    <ElSegmented
      :model-value="cue.pad.size"
      :options="SIZES"
      aria-label="Size"
      @update:model-value="change({ size: $event as Face['size'] })"
    />
    <div class="swatches" role="group" aria-label="Colour">
      <button
        class="swatch none"
        aria-label="No colour"
        :aria-pressed="!cue.pad.colour"
        @click="change({ colour: null })"
      ></button>
      <button
        v-for="colour in PAD_COLOURS"
        :key="colour"
        class="swatch"
        :style="{ background: `var(--${colour})` }"
        :aria-label="colour"
        :title="colour"
        :aria-pressed="cue.pad.colour === colour"
        @click="change({ colour })"
      ></button>
    </div>
    <div class="swatches" role="group" aria-label="Mark">
      <button
        class="swatch none"
        aria-label="No mark"
        :aria-pressed="!cue.pad.mark"
        @click="change({ mark: null })"
      ></button>
      <button
        v-for="(mark, name) in PAD_MARKS"
        :key="name"
        class="swatch mark"
        :aria-label="mark.name"
        :title="mark.name"
        :aria-pressed="cue.pad.mark === name"
        @click="change({ mark: name })"
      >
        <svg viewBox="0 0 24 24" aria-hidden="true">
          <path :d="mark.path" fill="currentColor" fill-rule="evenodd" />
        </svg>
      </button>
    </div>
  </section>
</template>

<style scoped>
.card {
  display: grid;
  gap: 10px;
}

.pad-key {
  width: 64px;
  text-align: center;
}

.does {
  margin: 0;
}

.card-title {
  margin: 0;
}

.swatches {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.swatch {
  width: 34px;
  height: 34px;
  padding: 5px;
  border: 2px solid var(--line);
  border-radius: 8px;
  cursor: pointer;
}

.swatch[aria-pressed='true'] {
  border-color: var(--ink);
  outline: 2px solid var(--marmalade);
}

.none {
  background: linear-gradient(135deg, transparent 46%, var(--soft) 47% 53%, transparent 54%) var(--raised);
}

.mark {
  background: var(--raised);
}
</style>
