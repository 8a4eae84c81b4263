<script setup lang="ts">
/** Takes dropped or picked files and gives them on. */
import { ref } from 'vue'

withDefaults(defineProps<{ busy?: boolean; label?: string }>(), {
  busy: false,
  label: 'Drop files here, or pick them',
})
const emit = defineEmits<{ files: [files: File[]] }>()
const over = ref(false)
const input = ref<HTMLInputElement>()
const ACCEPT = '.png,.jpg,.jpeg,.gif,.webp,.apng,.mp3,.ogg,.opus,.wav,.webm,.mp4'

function take(list: FileList | null | undefined): void {
  over.value = false
  const files = [...(list ?? [])]
  if (files.length) emit('files', files)
}
defineExpose({ pick: () => input.value?.click() })
</script>

<template>
  <div
    class="zone"
    :class="{ over, busy }"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="take($event.dataTransfer?.files)"
  >
    <slot>
      <button class="btn bare" @click="input?.click()">{{ busy ? 'Reading the files…' : label }}</button>
    </slot>
    <input
      ref="input"
      type="file"
      multiple
      hidden
      :accept="ACCEPT"
      @change="(take(input?.files), input && (input.value = ''))"
    />
  </div>
</template>

<style scoped>
.zone {
  border: 2px dashed var(--line);
  border-radius: var(--corner);
  display: grid;
  place-items: center;
  padding: 8px;
}

.zone.over {
  border-color: var(--marmalade);
  background: var(--raised);
}

.zone.busy {
  opacity: 0.7;
}
</style>
