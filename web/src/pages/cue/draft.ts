import { inject, type InjectionKey } from 'vue'
import type { CueDraft } from '@/composables/useCueDraft'

export const DRAFT: InjectionKey<CueDraft> = Symbol('the cue being built')

export function useDraft(): CueDraft {
  const draft = inject(DRAFT)
  if (!draft) throw new Error('There is no cue being built here.')
  return draft
}
