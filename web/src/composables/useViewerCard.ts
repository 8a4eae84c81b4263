/** The one card of a viewer that opens over whatever page: from any name, by the viewer's id. */
import { defineStore } from 'pinia'
import { ref } from 'vue'

export const useViewerCard = defineStore('viewer-card', () => {
  const viewer = ref<string | null>(null)
  /** Grows when something of a viewer was changed, so that lists ask again. */
  const changes = ref(0)

  function open(id: string): void {
    viewer.value = id
  }

  return { viewer, changes, open }
})
