<script setup lang="ts">
import { Hide, Moon, Search, Sunny, View } from '@element-plus/icons-vue'
import { ElSwitch } from 'element-plus'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import RestButton from './RestButton.vue'
import TalkLamp from './TalkLamp.vue'
import { useBook } from '@/composables/useBook'
import { useLive } from '@/composables/useLive'
import { covered, theme } from '@/composables/useLook'
import { attempt } from '@/composables/useSay'
import { labelOf, PAGES } from '@/labels'

defineEmits<{ search: []; help: [] }>()
const route = useRoute()
const live = useLive()
const book = useBook()

const onAir = computed(() => {
  const from = live.state?.stream_from
  if (!live.state?.on_air || !from) return null
  const minutes = Math.floor((live.now - from) / 60_000)
  return `${Math.floor(minutes / 60)}:${String(Math.max(0, minutes % 60)).padStart(2, '0')}`
})
const houseOpen = computed({
  get: () => book.book?.house.open ?? true,
  set: (open: boolean) => void attempt(() => book.putHouse({ open })),
})
</script>

<template>
  <header class="bar">
    <svg class="jar" viewBox="0 0 40 44" width="34" height="38" aria-label="Cue Jar" role="img">
      <rect x="9" y="2" width="22" height="7" rx="2" fill="var(--marmalade)" />
      <path
        d="M12 9h16v4l5 5v20a4 4 0 0 1-4 4H11a4 4 0 0 1-4-4V18l5-5z"
        fill="none"
        stroke="var(--ink)"
        stroke-width="2.5"
      />
      <path
        d="M8.500 27h23v11a2.500 2.500 0 0 1-2.500 2.500H11A2.500 2.500 0 0 1 8.500 38z"
        fill="var(--marmalade)"
      />
      <path d="M8.500 22h23v5h-23z" fill="var(--mint)" />
    </svg>
    <nav class="labels" aria-label="Pages">
      <RouterLink
        v-for="page in PAGES"
        :key="page.path"
        :to="page.path"
        class="label"
        :class="{ on: labelOf(route.path) === page.path }"
        >{{ page.name }}</RouterLink
      >
    </nav>
    <span class="grow"></span>
    <button class="btn bare" title="Search (/)" aria-label="Search" @click="$emit('search')">
      <Search class="icon" />
    </button>
    <TalkLamp />
    <span class="air" :class="{ on: onAir !== null }">
      <i class="lamp"></i>{{ onAir !== null ? `On air ${onAir}` : 'Off air' }}
    </span>
    <label class="house row" title="A closed house refuses every call">
      <span class="small">{{ houseOpen ? 'House open' : 'House closed' }}</span>
      <ElSwitch v-model="houseOpen" size="small" aria-label="House open" />
    </label>
    <RestButton />
    <button
      class="btn bare"
      :title="covered ? 'Secrets are covered' : 'Secrets are visible: cover them'"
      :aria-label="covered ? 'Uncover secrets' : 'Cover secrets'"
      :class="{ open: !covered }"
      @click="covered = !covered"
    >
      <Hide v-if="covered" class="icon" /><View v-else class="icon" />
    </button>
    <button
      class="btn bare"
      title="Dark or light"
      aria-label="Dark or light"
      @click="theme = theme === 'night' ? 'paper' : 'night'"
    >
      <Sunny v-if="theme === 'night'" class="icon" /><Moon v-else class="icon" />
    </button>
    <button class="btn bare" title="Help (?)" aria-label="Help" @click="$emit('help')">?</button>
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 10px;
  height: 56px;
  padding: 0 16px;
  background: var(--surface);
  border-bottom: 2px solid var(--line);
  position: relative;
  z-index: 10;
}

.labels {
  display: flex;
  gap: 4px;
  align-self: flex-start;
  margin-left: 8px;
}

/* A page's name is a label that hangs from the bar's upper edge; the one you are on hangs lower. */
.label {
  display: block;
  padding: 16px 7px 8px;
  color: var(--soft);
  text-decoration: none;
  font-family: var(--display);
  font-size: 15.5px;
  font-weight: 560;
  white-space: nowrap;
  clip-path: polygon(0 0, 100% 0, 100% calc(100% - 9px), calc(100% - 9px) 100%, 0 100%);
  transition: background var(--quick);
}

.label:hover {
  background: var(--raised);
  color: var(--ink);
}

.label.on {
  background: var(--ink);
  color: var(--ground);
  padding: 22px 16px 12px;
}

.icon {
  width: 18px;
  height: 18px;
}

.air {
  display: flex;
  align-items: center;
  gap: 8px;
  color: var(--soft);
  font-family: var(--display);
  font-weight: 600;
}

.lamp {
  width: 12px;
  height: 12px;
  border-radius: 50%;
  border: 2px solid var(--soft);
}

.air.on {
  color: var(--ink);
}

.air.on .lamp {
  background: var(--berry);
  border-color: var(--berry);
}

.open {
  color: var(--berry);
}

/* Narrow: the labels hang in a row of their own. */
@media (max-width: 1120px) {
  .bar {
    flex-wrap: wrap;
    height: auto;
    gap: 0 8px;
    padding: 6px 10px 0;
  }

  .labels {
    order: 1;
    width: 100%;
    margin-left: 0;
    overflow-x: auto;
    scrollbar-width: none;
  }

  .label,
  .label.on {
    padding: 8px 12px 10px;
  }
}

@media (max-width: 600px) {
  .house .small,
  .air:not(.on) {
    display: none;
  }

  .labels {
    gap: 0;
  }

  .label,
  .label.on {
    padding-inline: 9px;
    font-size: 15px;
  }

  .bar .bare {
    padding-inline: 4px;
  }
}
</style>
