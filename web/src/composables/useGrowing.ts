/** A long list: the first rows are drawn at once, the others as the page scrolls to them. */
import { useTimeoutFn } from '@vueuse/core'
import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'

const FIRST = 24
const MORE = 40
const PAUSE_MS = 30

export function useGrowing<T>(list: Ref<readonly T[]>): ComputedRef<readonly T[]> {
  const room = ref(FIRST)
  const { start } = useTimeoutFn(
    () => {
      room.value += MORE
    },
    PAUSE_MS,
    { immediate: false },
  )
  watch(
    [() => list.value.length, room],
    ([length, drawn]) => {
      if (drawn < length) start()
    },
    { immediate: true, flush: 'post' },
  )
  return computed(() => list.value.slice(0, room.value))
}
