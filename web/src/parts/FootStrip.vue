<script setup lang="ts">
import { ElPopover } from 'element-plus'
import { computed } from 'vue'
import { useLive, type GearRow } from '@/composables/useLive'
import OverlayLinks from './OverlayLinks.vue'

const live = useLive()
const WORDS: Record<GearRow['state'], string> = {
  in_step: 'in sync',
  catching_up: 'catching up',
  away: 'disconnected',
  off: 'off',
}
/** Whether other computers may show overlays. */
const beyond = computed(() => live.state?.overlays.some((overlay) => overlay.beyond))
const pages = computed(() => (live.state?.overlays ?? []).reduce((sum, overlay) => sum + overlay.pages, 0))
</script>

<template>
  <footer class="strip small">
    <span v-if="!live.connected" class="wrong">Cue Jar isn’t answering. Retrying…</span>
    <span
      v-for="gear in live.state?.gear ?? []"
      :key="gear.id"
      class="gear"
      :class="gear.state"
      :title="`${gear.name}: ${WORDS[gear.state]}${gear.problem ? `. ${gear.problem}` : ''}`"
    >
      <i class="sign"></i><span class="cut-off">{{ gear.name }}</span>
      <span v-if="gear.state !== 'in_step'">{{ WORDS[gear.state] }}</span>
      <span v-if="gear.state === 'away' && gear.problem" class="soft cut-off">· {{ gear.problem }}</span>
    </span>
    <span v-for="word in live.state?.said ?? []" :key="word" class="wrong cut-off">{{ word }}</span>
    <span class="grow"></span>
    <RouterLink v-if="beyond" to="/rig" class="soft" data-test="beyond"
      >Overlays open to the network</RouterLink
    >
    <ElPopover
      :persistent="false"
      role="dialog"
      aria-label="Overlay links"
      trigger="click"
      :width="380"
      placement="top-end"
    >
      <template #reference>
        <button class="btn bare tiny overlays" :class="{ none: pages === 0 }">
          Overlays:
          {{ pages === 0 ? 'no page connected' : `${pages} ${pages === 1 ? 'page' : 'pages'} connected` }}
        </button>
      </template>
      <OverlayLinks />
    </ElPopover>
  </footer>
</template>

<style scoped>
.strip {
  display: flex;
  align-items: center;
  gap: 16px;
  white-space: nowrap;
  min-height: 34px;
  padding: 2px 16px;
  background: var(--surface);
  border-top: 1px solid var(--line);
  color: var(--soft);
}

.gear {
  display: flex;
  align-items: center;
  gap: 7px;
  min-width: 0;
}

.sign {
  width: 10px;
  height: 10px;
  border-radius: 2px;
  background: var(--mint);
}

.catching_up .sign {
  background: var(--marmalade);
  border-radius: 50%;
}

.away {
  color: var(--berry);
}

.away .sign {
  background: none;
  border: 2px solid var(--berry);
  rotate: 45deg;
}

.wrong {
  color: var(--berry);
}

.overlays.none {
  color: var(--marmalade);
}

@media (max-width: 1120px) {
  .strip {
    gap: 12px;
    overflow-x: auto;
  }

  .gear {
    flex: none;
  }

  .overlays {
    position: sticky;
    right: -16px;
    background: var(--surface);
  }
}
</style>
