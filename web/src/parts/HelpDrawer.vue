<script setup lang="ts">
/** Help: the guide's page for the current page, and the shortcuts. */
import { ElDrawer, ElSegmented } from 'element-plus'
import { computed, defineAsyncComponent, ref } from 'vue'
import { useRoute } from 'vue-router'
import ShortcutList from './ShortcutList.vue'

const GuideView = defineAsyncComponent(() => import('@/guide/GuideView.vue'))
const open = defineModel<boolean>({ required: true })
const route = useRoute()
const shown = ref<'Guide' | 'Shortcuts'>('Guide')
const path = computed(() => route.path)
</script>

<template>
  <ElDrawer v-model="open" append-to="#over" title="Help" size="min(620px, 100%)" destroy-on-close>
    <div class="help">
      <div class="row">
        <ElSegmented v-model="shown" :options="['Guide', 'Shortcuts']" aria-label="Guide or shortcuts" />
        <span class="grow"></span>
        <RouterLink class="btn tiny" to="/opening" data-test="to-opening" @click="open = false"
          >Opening night</RouterLink
        >
      </div>
      <GuideView v-if="shown === 'Guide'" :path="path" />
      <ShortcutList v-else />
    </div>
  </ElDrawer>
</template>

<style scoped>
.help {
  display: grid;
  gap: 16px;
}
</style>
