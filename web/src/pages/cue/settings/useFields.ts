/** The chosen beat's fields, read and set by name. */
import { computed, type ComputedRef } from 'vue'
import type { LooseBeat } from '@/api/client'
import { useDraft } from '../draft'

export function useFields(): {
  beat: ComputedRef<LooseBeat | null>
  set: (fields: Record<string, unknown>) => void
  number: (key: string, usual: number) => number
  text: (key: string) => string
} {
  const draft = useDraft()
  const beat = computed(() => draft.chosenBeat.value)
  return {
    beat,
    set: (fields) => {
      if (beat.value) draft.change(beat.value.id, fields)
    },
    number: (key, usual) => Number(beat.value?.[key] ?? usual),
    text: (key) => String(beat.value?.[key] ?? ''),
  }
}
