<script setup lang="ts">
/** The panes of the editor: the stage over the score, the settings beside both. Where they meet they are dragged, which is
 * remembered in this browser. In a narrow window they are stacked. */
import { useElementSize, useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import PaneEdge from '@/parts/PaneEdge.vue'

const props = defineProps<{
  /** The height at which the score shows all of its rows (px). */
  tall: number
}>()

const SETTINGS_PX = 340
const SETTINGS_LEAST = 280
const SETTINGS_MOST = 620
const STAGE_LEAST = 200
const SCORE_LEAST = 110
const box = ref<HTMLElement>()
const { height } = useElementSize(box)
const kept = useLocalStorage<{ score: number | null; settings: number }>('cue-panes', {
  score: null,
  settings: SETTINGS_PX,
})
const most = computed(() => Math.max(SCORE_LEAST, Math.round(height.value) - STAGE_LEAST))
/** Until it is dragged the score is as high as its rows, and the stage has the rest. */
const score = computed(() => Math.min(most.value, Math.max(SCORE_LEAST, kept.value.score ?? props.tall)))
</script>

<template>
  <div ref="box" class="panes" :style="{ '--score': `${score}px`, '--settings': `${kept.settings}px` }">
    <div class="stage"><slot name="stage" /></div>
    <PaneEdge
      class="lower"
      label="Stage and score divider"
      :model-value="score"
      :least="SCORE_LEAST"
      :most="most"
      @update:model-value="kept = { ...kept, score: $event }"
      @reset="kept = { ...kept, score: null }"
    />
    <div class="score-pane"><slot name="score" /></div>
    <PaneEdge
      class="side"
      upright
      label="Stage and settings divider"
      :model-value="kept.settings"
      :least="SETTINGS_LEAST"
      :most="SETTINGS_MOST"
      @update:model-value="kept = { ...kept, settings: $event }"
      @reset="kept = { ...kept, settings: SETTINGS_PX }"
    />
    <div class="settings-pane"><slot name="settings" /></div>
  </div>
</template>

<style scoped>
.panes {
  flex: 1 1 0;
  min-height: 0;
  display: grid;
  grid-template:
    'stage side settings' minmax(0, 1fr)
    'lower side settings' 10px
    'score side settings' var(--score)
    / minmax(0, 1fr) 12px var(--settings);
}

.stage,
.score-pane,
.settings-pane {
  display: grid;
  grid-template: minmax(0, 1fr) / minmax(0, 1fr);
  min-width: 0;
  min-height: 0;
}

.stage {
  grid-area: stage;
}

.lower {
  grid-area: lower;
}

.score-pane {
  grid-area: score;
}

.side {
  grid-area: side;
}

.settings-pane {
  grid-area: settings;
}

@media (max-width: 1120px) {
  .panes {
    flex: none;
    gap: 10px;
    grid-template:
      'stage' clamp(260px, 60vw, 520px)
      'score' auto
      'settings' auto
      / minmax(0, 1fr);
  }

  .lower,
  .side {
    display: none;
  }
}
</style>
