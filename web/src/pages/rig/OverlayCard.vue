<script setup lang="ts">
/** One overlay: its size, its link, its outputs, who sees it, and the connected pages. */
import { ElCheckbox, ElPopconfirm } from 'element-plus'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { covered } from '@/composables/useLook'
import { useOverlayLink } from '@/composables/useOverlayLink'
import { attempt } from '@/composables/useSay'

const props = defineProps<{ overlay: Schemas['OverlayEntry']; begins: string }>()
const book = useBook()
const live = useLive()
const { link, show, copy, renew } = useOverlayLink(() => props.overlay.id)
const SIZES = [
  [1920, 1080],
  [1280, 720],
  [2560, 1440],
  [3840, 2160],
  [1080, 1920],
]
const state = computed(() => live.state?.overlays.find((o) => o.id === props.overlay.id))
const pages = computed(() => state.value?.lags ?? [])
const size = computed(() => `${props.overlay.width}×${props.overlay.height}`)
const beats = computed(() =>
  (book.book?.cues ?? []).flatMap((cue) =>
    (cue.beats as { overlays?: string[] }[]).filter((beat) => beat.overlays?.includes(props.overlay.id)),
  ),
)

function set(fields: Partial<Schemas['OverlayEntry']>): Promise<unknown> {
  return attempt(() => book.put('overlays', { ...props.overlay, ...fields }))
}

function setSize(text: string): void {
  const found = /^\s*(\d+)\s*[x×*, ]\s*(\d+)\s*$/i.exec(text)
  if (found) void set({ width: Number(found[1]), height: Number(found[2]) })
}
</script>

<template>
  <section class="card overlay" :data-overlay="overlay.id">
    <div class="row">
      <input
        class="name"
        :value="overlay.name"
        aria-label="Overlay name"
        @change="set({ name: ($event.target as HTMLInputElement).value.trim() || overlay.name })"
      />
      <span class="grow"></span>
      <span :class="pages.length ? 'fine' : 'soft'">
        {{
          pages.length === 0 ? 'no page connected' : pages.length === 1 ? '1 page' : `${pages.length} pages`
        }}
      </span>
    </div>
    <ul v-if="pages.length" class="pages small">
      <li v-for="(lag, i) in pages" :key="i">
        page {{ i + 1 }}: {{ lag === null ? 'just connected' : `${lag} ms round trip` }}
      </li>
    </ul>
    <div class="row">
      <code class="link small cut-off grow">{{ !covered && link ? link : '•••• covered ••••' }}</code>
      <button class="btn tiny main" @click="attempt(() => copy())">Copy link</button>
      <button
        v-if="begins"
        class="btn tiny"
        data-test="copy-beyond"
        title="A link for other computers on this network"
        @click="attempt(() => copy(begins))"
      >
        Copy for another computer
      </button>
      <button
        class="btn tiny"
        :disabled="covered"
        :title="covered ? 'Uncover secrets first' : ''"
        @click="attempt(show)"
      >
        Show
      </button>
      <ElPopconfirm
        :persistent="false"
        title="Make a new link? The old one stops working."
        confirm-button-text="New link"
        cancel-button-text="Cancel"
        width="240"
        @confirm="attempt(renew)"
      >
        <template #reference><button class="btn tiny">Renew</button></template>
      </ElPopconfirm>
    </div>
    <div class="row">
      <label class="row small soft"
        >Size<input
          class="well size"
          :value="size"
          list="overlay-sizes"
          aria-label="Size in pixels"
          @change="setSize(($event.target as HTMLInputElement).value)"
      /></label>
      <datalist id="overlay-sizes">
        <option v-for="[w, h] in SIZES" :key="`${w}/${h}`" :value="`${w}×${h}`"></option>
      </datalist>
      <ElCheckbox :model-value="overlay.picture" @update:model-value="set({ picture: Boolean($event) })"
        >Picture</ElCheckbox
      >
      <ElCheckbox :model-value="overlay.sound" @update:model-value="set({ sound: Boolean($event) })"
        >Sound</ElCheckbox
      >
      <ElCheckbox :model-value="overlay.private" @update:model-value="set({ private: Boolean($event) })"
        >Only for you</ElCheckbox
      >
      <ElCheckbox
        v-if="overlay.private || overlay.timers"
        :model-value="overlay.timers"
        data-test="timers"
        @update:model-value="set({ timers: Boolean($event) })"
        >Show timers</ElCheckbox
      >
    </div>
    <div class="row small">
      <label class="row"
        ><input
          type="checkbox"
          :checked="overlay.ground !== null"
          @change="set({ ground: ($event.target as HTMLInputElement).checked ? '#00b140' : null })"
        />Chroma key background</label
      >
      <input
        v-if="overlay.ground"
        type="color"
        :value="overlay.ground"
        aria-label="Key colour"
        @change="set({ ground: ($event.target as HTMLInputElement).value })"
      />
      <span v-else class="soft">see-through</span>
      <span class="grow"></span>
      <span v-if="beats.length" class="soft">{{ beats.length }} beats go here by name</span>
      <ElPopconfirm
        :persistent="false"
        v-if="(book.book?.overlays.length ?? 0) > 1"
        title="Remove this overlay? Its link stops working."
        confirm-button-text="Remove"
        cancel-button-text="Cancel"
        width="240"
        @confirm="attempt(() => book.remove('overlays', overlay.id))"
      >
        <template #reference><button class="btn tiny danger">Remove</button></template>
      </ElPopconfirm>
    </div>
  </section>
</template>

<style scoped>
.overlay {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 10px;
}

.name {
  font: 640 18px var(--display);
  background: none;
  border: 0;
  border-bottom: 2px solid transparent;
  width: 240px;
}

.name:hover,
.name:focus {
  border-bottom-color: var(--line);
  outline: none;
}

.pages {
  list-style: none;
  margin: 0;
  padding: 0;
  color: var(--soft);
}

.fine {
  color: var(--mint);
}

.link {
  display: block;
  background: var(--ground);
  border-radius: 6px;
  padding: 4px 8px;
}

.size {
  width: 120px;
  min-height: 30px;
}
</style>
