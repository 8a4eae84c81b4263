<script setup lang="ts">
/** Accepts dropped or picked files and passes them on. */
import { ref } from 'vue'

const MEDIA = '.png,.jpg,.jpeg,.gif,.webp,.apng,.mp3,.ogg,.opus,.wav,.webm,.mp4'
withDefaults(defineProps<{ busy?: boolean; label?: string; accept?: string; bundles?: boolean }>(), {
  busy: false,
  bundles: false,
  accept: undefined,
  label: 'Drop files here, or choose them',
})
const emit = defineEmits<{ files: [files: File[]] }>()
const over = ref(false)
const input = ref<HTMLInputElement>()

function take(list: FileList | null | undefined): void {
  over.value = false
  const files = [...(list ?? [])]
  if (files.length) emit('files', files)
}

/** The files in dropped folders, however deep. */
async function unpacked(items: DataTransferItemList | undefined): Promise<File[]> {
  const entries = [...(items ?? [])].map((item) => item.webkitGetAsEntry())
  const files: File[] = []
  async function walk(entry: FileSystemEntry | null): Promise<void> {
    if (!entry || entry.name.startsWith('.')) return
    if (entry.isFile) {
      files.push(await new Promise<File>((done, no) => (entry as FileSystemFileEntry).file(done, no)))
      return
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader()
    for (;;) {
      const some = await new Promise<FileSystemEntry[]>((done, no) => reader.readEntries(done, no))
      if (!some.length) return
      for (const one of some) await walk(one)
    }
  }
  for (const entry of entries) await walk(entry)
  return files
}

async function drop(event: DragEvent): Promise<void> {
  over.value = false
  const files = await unpacked(event.dataTransfer?.items)
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
    @drop.prevent="drop"
  >
    <slot>
      <button class="btn bare" @click="input?.click()">{{ busy ? 'Reading the files…' : label }}</button>
    </slot>
    <input
      ref="input"
      type="file"
      multiple
      hidden
      :accept="accept ?? (bundles ? `${MEDIA},.zip` : MEDIA)"
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
