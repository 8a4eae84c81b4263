/** The state of opening night: which stations are done, which were skipped, what a person said of the test. */
import { useLocalStorage } from '@vueuse/core'
import { computed, shallowRef, watch } from 'vue'
import { api, got, type Schemas } from '@/api/client'
import { openStation, trueNow, type StationId } from '@/logic/opening'
import { useBook } from './useBook'
import { useLive } from './useLive'

const said = useLocalStorage(
  'cue-jar-opening',
  { seen: false, heard: false, pretended: false, leftOut: [] as StationId[] },
  { onError: () => {}, mergeDefaults: true },
)

export function useOpening() {
  const book = useBook()
  const live = useLive()
  const snags = shallowRef<Schemas['SnagOut'][]>([])
  watch(
    () => book.version,
    async () => (snags.value = await got(api.GET('/api/snags')).catch(() => [])),
    { immediate: true },
  )
  const cues = computed(() => {
    const wrong = new Set(
      snags.value.filter((one) => one.grade === 'error' && one.hidden === null).map((one) => one.cue),
    )
    return (book.book?.cues ?? []).filter((cue) => cue.beats.length && !wrong.has(cue.id))
  })
  const pages = computed(() => (live.state?.overlays ?? []).reduce((sum, one) => sum + one.pages, 0))
  const done = computed(() =>
    trueNow({
      gear: live.state?.gear ?? [],
      pages: pages.value,
      seen: said.value.seen,
      heard: said.value.heard,
      cues: cues.value.length,
      lines: live.lines,
      pretended: said.value.pretended,
    }),
  )
  const open = computed(() => openStation(done.value, said.value.leftOut))

  function leaveOut(station: StationId, out: boolean): void {
    const others = said.value.leftOut.filter((one) => one !== station)
    said.value.leftOut = out ? [...others, station] : others
  }

  return { said, done, open, cues, pages, leaveOut }
}
