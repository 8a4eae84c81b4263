<script setup lang="ts">
/**
 * Two settings of a throw side by side. The unused one is kept; T throws both again, with the same luck, so that
 * only the settings differ.
 */
import { useEventListener } from '@vueuse/core'
import { computed, onUnmounted, ref, watch } from 'vue'
import { api, got } from '@/api/client'
import { useBook } from '@/composables/useBook'
import type { AnyBeat, Schemas } from '@/api/client'
import { playThrow } from '@/overlay/throw'
import { useFields } from './useFields'

const { beat, set } = useFields()
const book = useBook()
const other = ref<AnyBeat | null>(null)
type Side = 'in use' | 'saved'
const sides = computed<Side[]>(() => (other.value ? ['in use', 'saved'] : ['in use']))
const played: Partial<Record<Side, HTMLElement | null>> = {}
const problem = ref('')
let stop: (() => void)[] = []
let luck = 0
const targets = computed(() =>
  (book.book?.gear ?? []).filter((g) => g.kind === 'avatar').flatMap((g) => g.targets),
)

const KEPT = new Set(['id', 'kind', 'start', 'only_if'])

function settings(of: AnyBeat): Record<string, unknown> {
  return Object.fromEntries(Object.entries(of).filter(([key]) => !KEPT.has(key)))
}

function keep(): void {
  if (beat.value) other.value = JSON.parse(JSON.stringify(beat.value)) as AnyBeat
}

/** Swaps the kept settings with the current ones. */
function swap(): void {
  if (!beat.value || !other.value) return
  const before = JSON.parse(JSON.stringify(beat.value)) as AnyBeat
  set(settings(other.value))
  other.value = before
}

async function play(node: HTMLElement | null | undefined, of: AnyBeat): Promise<void> {
  if (!node) return
  const answer = await got(
    api.POST('/api/throws', { body: { beat: of as unknown as Record<string, never>, luck } }),
  )
  const message = {
    t: 'show' as const,
    run: `tuning-${luck}`,
    beat: of.id,
    kind: 'throw',
    value: null,
    at: Date.now(),
    until: null,
    look: of as never,
    media: answer.media as never,
    things: answer.things as Schemas['Thing'][],
  }
  node.replaceChildren()
  stop.push(playThrow(node, message, Date.now))
}

function ended(): void {
  for (const one of stop) one()
  stop = []
}

async function again(): Promise<void> {
  if (!beat.value) return
  ended()
  luck += 1
  try {
    await Promise.all([
      play(played['in use'], beat.value),
      other.value ? play(played['saved'], other.value) : undefined,
    ])
    problem.value = ''
  } catch (error) {
    problem.value = String((error as Error).message)
  }
}

function onKey(event: KeyboardEvent): void {
  const typing = (event.target as HTMLElement).closest('input, textarea, select')
  if (event.key.toLowerCase() === 't' && !typing && !event.ctrlKey && !event.metaKey && !event.altKey) {
    event.preventDefault()
    void again()
  }
}
useEventListener(window, 'keydown', onKey)
onUnmounted(ended)
watch(
  () => beat.value?.id,
  () => (other.value = null),
)
</script>

<template>
  <div class="stack">
    <div class="row">
      <button class="btn tiny" data-test="throw-again" @click="again">Throw again (T)</button>
      <button class="btn tiny" @click="keep">
        {{ other ? 'Save this instead' : 'Save to compare' }}
      </button>
      <button v-if="other" class="btn tiny" @click="swap">Swap</button>
    </div>
    <p v-if="problem" class="wrong small">{{ problem }}</p>
    <div class="pair" :class="{ both: other }">
      <figure v-for="side in sides" :key="side">
        <div class="field-of-view" data-test="tuning">
          <i
            v-for="one in targets"
            :key="one.id"
            :style="{ left: `${one.x * 100}%`, top: `${one.y * 100}%`, height: `${one.r * 200}%` }"
          ></i>
          <div :ref="(node) => (played[side] = node as HTMLElement)" class="play"></div>
        </div>
        <figcaption class="small soft">{{ side }}</figcaption>
      </figure>
    </div>
  </div>
</template>

<style scoped>
.stack {
  display: grid;
  gap: 6px;
}

.pair.both {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}

figure {
  margin: 0;
}

.field-of-view {
  position: relative;
  aspect-ratio: 16 / 9;
  background: var(--ground);
  border: 1px solid var(--line);
  overflow: hidden;
}

.play {
  position: absolute;
  inset: 0;
}

i {
  position: absolute;
  aspect-ratio: 1;
  translate: -50% -50%;
  border: 1px dashed var(--lilac);
  border-radius: 50%;
}

.wrong {
  color: var(--berry);
}
</style>
