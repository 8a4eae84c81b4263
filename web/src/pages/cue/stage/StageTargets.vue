<script setup lang="ts">
/** The circles that things are thrown at, over the stage: dragged by their middle, resized by their rim. */
import { computed, ref } from 'vue'
import { useBook } from '@/composables/useBook'
import { useGear } from '@/composables/useGear'
import { attempt } from '@/composables/useSay'
import { round4 } from '@/logic/arrange'
import { freeId } from '@/logic/ids'
import AvatarPicture from '@/parts/gear/AvatarPicture.vue'
import { useDraft } from '../draft'
import { dragOn, within } from '../dragOn'
import { pathOf } from '@/logic/paths'

const props = defineProps<{ width: number; height: number }>()
const book = useBook()
const gear = useGear()
const draft = useDraft()
const root = ref<HTMLElement>()
const entry = computed(() => book.book?.gear.find((g) => g.kind === 'avatar'))
const moved = ref<{ id: string; x: number; y: number; r: number } | null>(null)
const targets = computed(() =>
  (entry.value?.targets ?? []).map((t) => (moved.value?.id === t.id ? { ...t, ...moved.value } : t)),
)
const rest = (what: string): string => {
  const row = gear.gear
    .find((g) => g.kind === 'avatar')
    ?.properties.find((p) => p.path === pathOf('avatar', what))
  return String(row?.actual ?? row?.rest ?? '')
}

function drag(
  event: PointerEvent,
  target: { id: string; x: number; y: number; r: number },
  rim: boolean,
): void {
  dragOn(
    root.value,
    event,
    (x, y) => {
      const far = Math.hypot(((x - target.x) * props.width) / props.height, y - target.y)
      moved.value = rim
        ? { ...target, r: round4(within(far, 0.02, 0.5)) }
        : { ...target, x: round4(within(x, 0, 1)), y: round4(within(y, 0, 1)) }
    },
    () => {
      const to = moved.value
      if (to) void save(targets.value.map((t) => (t.id === to.id ? { ...t, x: to.x, y: to.y, r: to.r } : t)))
    },
  )
}

async function save(next: unknown[]): Promise<void> {
  await attempt(async () => {
    if (entry.value) await book.put('gear', { ...entry.value, targets: next })
    else await book.put('gear', { id: 'avatar', kind: 'avatar', name: 'Avatar', targets: next })
  })
  moved.value = null
}

const from = computed(() =>
  draft.chosenBeat.value?.origin === 'point'
    ? { x: Number(draft.chosenBeat.value.from_x ?? 0.5), y: Number(draft.chosenBeat.value.from_y ?? 0) }
    : null,
)

/** The point that things come from, if it is placed. */
function dragFrom(event: PointerEvent): void {
  const beat = draft.chosenBeat.value
  if (!beat) return
  dragOn(root.value, event, (x, y) =>
    draft.change(beat.id, { from_x: round4(within(x, 0, 1)), from_y: round4(within(y, 0, 1)) }),
  )
}

function add(): void {
  const id = freeId('target', new Set(targets.value.map((t) => t.id)))
  void save([...targets.value, { id, name: `Target ${targets.value.length + 1}`, x: 0.5, y: 0.5, r: 0.08 }])
}

function rename(id: string, now: string): void {
  const name = window.prompt('Target name', now)?.trim()
  if (name) void save(targets.value.map((t) => (t.id === id ? { ...t, name } : t)))
}
</script>

<template>
  <div ref="root" class="targets" data-test="targets">
    <AvatarPicture
      v-if="rest('model') && !gear.programme"
      class="avatar"
      :model="rest('model')"
      :outfit="rest('outfit')"
      :pose="rest('pose')"
      :expressions="[]"
    />
    <div
      v-for="target in targets"
      :key="target.id"
      class="circle"
      :data-target="target.id"
      :style="{ left: `${target.x * 100}%`, top: `${target.y * 100}%`, height: `${target.r * 200}%` }"
      :title="`${target.name}: drag to move, double-click to rename`"
      @pointerdown.stop.prevent="drag($event, target, false)"
      @dblclick.stop="rename(target.id, target.name)"
    >
      <span>{{ target.name }}</span>
      <i class="rim" title="Drag to resize" @pointerdown.stop.prevent="drag($event, target, true)"></i>
      <button
        class="gone"
        :aria-label="`Take ${target.name} away`"
        @pointerdown.stop
        @click.stop="save(targets.filter((t) => t.id !== target.id))"
      >
        ×
      </button>
    </div>
    <div
      v-if="from"
      class="from"
      data-test="from"
      title="Origin: drag to move"
      :style="{ left: `${from.x * 100}%`, top: `${from.y * 100}%` }"
      @pointerdown.stop.prevent="dragFrom"
    >
      <span>from here</span>
    </div>
    <button class="btn tiny new" data-test="new-target" @pointerdown.stop @click.stop="add">
      New target
    </button>
  </div>
</template>

<style scoped>
.targets {
  position: absolute;
  inset: 0;
  pointer-events: none;
  z-index: 1500;
}

.avatar {
  position: absolute;
  right: 4%;
  bottom: 0;
  height: 78%;
  opacity: 0.85;
  clip-path: inset(4% 0 0 0);
}

.circle {
  position: absolute;
  aspect-ratio: 1;
  translate: -50% -50%;
  border: 3px dashed var(--lilac);
  border-radius: 50%;
  display: grid;
  place-items: center;
  pointer-events: auto;
  cursor: move;
  background: color-mix(in oklab, var(--lilac) 18%, transparent);
}

.circle span {
  background: var(--ground);
  padding: 0 6px;
  border-radius: 4px;
  font-size: 12px;
}

.rim {
  position: absolute;
  right: -7px;
  top: calc(50% - 7px);
  width: 14px;
  height: 14px;
  background: var(--lilac);
  border-radius: 50%;
  cursor: ew-resize;
}

.gone {
  position: absolute;
  right: -4px;
  top: -4px;
  border: 0;
  border-radius: 50%;
  background: var(--ground);
  color: var(--ink);
  width: 18px;
  height: 18px;
  line-height: 14px;
  cursor: pointer;
  opacity: 0;
}

.circle:hover .gone,
.gone:focus-visible {
  opacity: 1;
}

.from {
  position: absolute;
  translate: -50% -50%;
  padding: 2px 8px;
  background: var(--marmalade);
  color: var(--on-marmalade);
  border-radius: 8px;
  font-size: 12px;
  pointer-events: auto;
  cursor: move;
}

.new {
  position: absolute;
  left: 8px;
  top: 8px;
  pointer-events: auto;
}
</style>
