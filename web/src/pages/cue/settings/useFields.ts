/** The chosen beat's fields, read and set by name. */
import { computed, type ComputedRef } from 'vue'
import type { AnyBeat, BeatFields } from '@/api/client'
import { useDraft } from '../draft'

export function useFields(): {
  beat: ComputedRef<AnyBeat | null>
  set: (fields: BeatFields) => void
  number: (key: keyof BeatFields, usual: number) => number
  text: (key: keyof BeatFields) => string
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
