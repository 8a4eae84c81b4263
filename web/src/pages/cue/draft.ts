import { inject, type InjectionKey } from 'vue'
import type { CueDraft } from '@/composables/useCueDraft'
import type { Trying } from '@/composables/useTry'

export const DRAFT: InjectionKey<CueDraft> = Symbol('the cue being built')
export const TRYING: InjectionKey<Trying> = Symbol('the try of it')

function there<T>(found: T | undefined): T {
  if (!found) throw new Error('There is no cue being built here.')
  return found
}

export function useDraft(): CueDraft {
  return there(inject(DRAFT))
}

export function useTrying(): Trying {
  return there(inject(TRYING))
}
