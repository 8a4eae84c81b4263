/** The one card of a viewer that opens over any page: from any name, by the viewer's id. */
import { defineStore } from 'pinia'
import { ref } from 'vue'

export const useViewerCard = defineStore('viewer-card', () => {
  const viewer = ref<string | null>(null)
  /** Grows when something of a viewer changed, so that lists refresh. */
  const changes = ref(0)

  function open(id: string): void {
    viewer.value = id
  }

  return { viewer, changes, open }
})
