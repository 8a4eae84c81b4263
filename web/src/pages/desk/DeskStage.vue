<script setup lang="ts">
/** The overlay as viewers see it, without its sound. */
import { onMounted, onUnmounted, ref, watch } from 'vue'
import { api, got } from '@/api/client'
import { useGear } from '@/composables/useGear'
import { useLive } from '@/composables/useLive'
import { joinOverlay, ServerClock, type Line } from '@/overlay/link'
import { OverlayStage } from '@/overlay/stage'

const live = useLive()
const gear = useGear()
const root = ref<HTMLElement>()
const ratio = ref('16 / 9')
const chosen = ref('')
let line: Line | null = null
let stage: OverlayStage | null = null

async function join(): Promise<void> {
  line?.close()
  stage?.clear()
  const overlay_id = chosen.value
  if (!overlay_id || !root.value) return
  const link = await got(api.POST('/api/overlays/{overlay_id}/link', { params: { path: { overlay_id } } }))
  if (!root.value) return
  const clock = new ServerClock()
  stage = new OverlayStage(root.value, { sound: false, picture: true, now: clock.now })
  line = joinOverlay(
    `${link.path}/feed?desk`,
    stage,
    clock,
    (size) => (ratio.value = `${size.width} / ${size.height}`),
  )
}

watch(
  () => live.state?.overlays.map((overlay) => overlay.id).join(),
  () => {
    const ids = (live.state?.overlays ?? []).map((overlay) => overlay.id)
    if (!ids.includes(chosen.value)) chosen.value = ids[0] ?? ''
  },
  { immediate: true },
)
watch(chosen, () => void join().catch(() => {}))
onMounted(() => void join().catch(() => {}))
onUnmounted(() => line?.close())
</script>

<template>
  <section class="stage-box">
    <div
      ref="root"
      class="stage"
      :style="{
        aspectRatio: ratio,
        backgroundImage: gear.programme ? `url(${gear.programme})` : undefined,
        backgroundSize: gear.programme ? 'cover' : undefined,
      }"
      role="img"
      aria-label="The overlay as viewers see it"
    ></div>
    <span class="tag small">
      {{ live.state?.overlays.find((o) => o.id === chosen)?.name ?? 'No overlay' }}, as viewers see it
    </span>
  </section>
</template>

<style scoped>
.stage-box {
  position: relative;
  display: grid;
  justify-items: center;
  gap: 4px;
}

.stage {
  height: min(27vh, 300px);
  max-width: 100%;
  background: repeating-conic-gradient(var(--surface) 0% 25%, var(--ground) 0% 50%) 0 0 / 24px 24px;
  border: 1px solid var(--line);
  border-radius: 6px;
}

.tag {
  color: var(--soft);
}

@media (max-width: 700px) {
  .stage {
    width: 100%;
    height: auto;
  }
}
</style>
