<script setup lang="ts">
/** A whole in parts, as one bar: the edges between them are dragged, or moved by the arrow keys. */
import { computed, ref } from 'vue'
import { byKey, slider, useHandle } from '@/composables/useHandle'
import { edgeMoved } from '@/logic/nights'

const props = defineProps<{
  parts: { id: string; name: string; share: number; hint?: string }[]
  label: string
}>()
const emit = defineEmits<{ change: [shares: number[]] }>()

const COLOURS = ['--marmalade', '--sky', '--sage', '--plum', '--straw']
const node = ref<HTMLElement>()
const { held, drag } = useHandle<number[]>((drawn) => emit('change', drawn))
const shares = computed(() => held.value ?? props.parts.map((part) => part.share))
const total = computed(() => shares.value.reduce((sum, share) => sum + share, 0) || 1)
const percent = (share: number): number => Math.round((share / total.value) * 100)

function take(event: PointerEvent, index: number): void {
  const [before, from] = [shares.value, event.clientX]
  const wide = node.value?.getBoundingClientRect().width ?? 1
  drag(event, (moved) => edgeMoved(before, index, (moved.clientX - from) / wide))
}

function key(event: KeyboardEvent, index: number): void {
  const by = (part: number) => () => emit('change', edgeMoved(shares.value, index, part))
  byKey(event, { ArrowLeft: by(-0.02), ArrowRight: by(0.02) })
}
</script>

<template>
  <div class="split">
    <div ref="node" class="bar" role="group" :aria-label="label">
      <template v-for="(part, i) in parts" :key="part.id">
        <span
          class="part"
          :style="{ flexGrow: shares[i], background: `var(${COLOURS[i % COLOURS.length]})` }"
          :title="part.hint ?? part.name"
        ></span>
        <span
          v-if="i < parts.length - 1"
          class="edge"
          v-bind="slider(`${part.name} up to`, percent(shares[i] ?? 0), 0, 100)"
          :data-test="`edge-${part.id}`"
          @pointerdown.prevent="take($event, i)"
          @keydown="key($event, i)"
        ></span>
      </template>
    </div>
    <div class="names small">
      <span v-for="(part, i) in parts" :key="part.id" class="name" :title="part.hint ?? ''">
        <i :style="{ background: `var(${COLOURS[i % COLOURS.length]})` }"></i>{{ part.name }}
        <b>{{ percent(shares[i] ?? 0) }} %</b>
      </span>
    </div>
  </div>
</template>

<style scoped>
.split {
  display: grid;
  gap: 4px;
}

.bar {
  display: flex;
  height: 22px;
  border-radius: 6px;
  overflow: hidden;
}

.part {
  flex-basis: 0;
  min-width: 0;
}

.edge {
  flex: none;
  width: 10px;
  margin: 0 -5px;
  z-index: 1;
  cursor: ew-resize;
  touch-action: none;
  background: linear-gradient(var(--ground), var(--ground)) center / 3px 100% no-repeat;
}

.edge:focus-visible {
  outline-offset: -2px;
}

.names {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  color: var(--soft);
}

.name {
  display: inline-flex;
  align-items: center;
  gap: 5px;
}

.name b {
  color: var(--ink);
}

i {
  width: 9px;
  height: 9px;
  border-radius: 2px;
}
</style>
