/** A cue being built: every change is saved by itself after a moment and counts from the next call on. */
import { computed, onScopeDispose, ref, shallowRef, watch, type ComputedRef, type Ref } from 'vue'
import {
  api,
  got,
  Refused,
  type Beat,
  type Cue,
  type AnyBeat,
  type Schemas,
  type BeatFields,
} from '@/api/client'
import { planted, shelve, shelved } from '@/logic/beats'
import { freeId } from '@/logic/ids'
import { merged } from '@/logic/merging'
import { followed, usesText } from '@/logic/texts'
import { useBook } from './useBook'
import { say } from './useSay'

export type Snag = Schemas['SnagOut']
export type Span = Schemas['SpanOut']
export interface Place {
  x: number
  y: number
  w: number
  h: number
}

const SAVE_MS = 350

export interface CueDraft {
  cue: Ref<Cue | null>
  beats: ComputedRef<AnyBeat[]>
  spans: Ref<Map<string, Span>>
  chosen: Ref<string | null>
  chosenBeat: ComputedRef<AnyBeat | null>
  /** All selected beats; the settings of the first are shown. */
  picked: ComputedRef<AnyBeat[]>
  problem: Ref<string>
  snags: Ref<Snag[]>
  /** The cue in words, as last measured. */
  told: Ref<Schemas['CueTold'] | null>
  /** The words of one of its calls. */
  sayCall: (call: Cue['calls'][number]) => string
  state: Ref<'saved' | 'saving' | 'wrong'>
  addBeat: (kind: string, fields?: BeatFields) => void
  removeBeat: (id: string) => void
  /** Selects one beat; with `add` it joins or leaves the selection. */
  choose: (id: string, add: boolean) => void
  chooseAll: () => void
  copy: () => number
  paste: () => number
  change: (id: string, fields: BeatFields) => void
  flush: () => Promise<void>
}

export function useCueDraft(id: () => string): CueDraft {
  const book = useBook()
  const cue = ref<Cue | null>(null)
  const spans = ref(new Map<string, Span>())
  const chosen = ref<string | null>(null)
  const also = ref<string[]>([])
  const problem = ref('')
  const snags = ref<Snag[]>([])
  const told = shallowRef<Schemas['CueTold'] | null>(null)
  const callWords = shallowRef(new Map<string, string>())
  const state = ref<'saved' | 'saving' | 'wrong'>('saved')
  let saved = ''
  let timer = 0
  let saving: Promise<void> = Promise.resolve()

  function take(): void {
    const found = book.book?.cues.find((c) => c.id === id())
    put(found ? (JSON.parse(JSON.stringify(found)) as Cue) : null)
    saved = JSON.stringify(cue.value)
    state.value = 'saved'
  }

  /** Takes somebody else's changes. Unsaved ones here stay, and are saved then. */
  function takeToo(): void {
    const found = book.book?.cues.find((c) => c.id === id())
    if (!found || !cue.value || JSON.stringify(cue.value) === saved) {
      take()
      return
    }
    const base = JSON.parse(saved) as Cue
    saved = JSON.stringify(found)
    put(JSON.parse(JSON.stringify(merged<Cue>(base, cue.value, found))) as Cue)
    later()
  }

  function put(value: Cue | null): void {
    if (value?.id !== cue.value?.id) told.value = null
    cue.value = value
    problem.value = ''
    if (chosen.value && !cue.value?.beats.some((b) => b.id === chosen.value)) chosen.value = null
    void measure()
  }

  async function measure(): Promise<void> {
    if (!cue.value) return
    try {
      const asked = JSON.parse(JSON.stringify(cue.value)) as Cue
      const value = asked as unknown as Record<string, never>
      const measured = await got(api.POST('/api/building/measure', { body: { value } }))
      const { calls } = measured.told
      told.value = measured.told
      callWords.value = new Map(asked.calls.map((call, at) => [JSON.stringify(call), calls[at] ?? '']))
      spans.value = new Map(measured.spans.map((row) => [row.beat, row]))
      snags.value = measured.snags
      problem.value = ''
    } catch (error) {
      if (error instanceof Refused) problem.value = error.message.replace(/^cues\[\d+\]\.?/, '')
    }
  }

  async function save(): Promise<void> {
    const now = JSON.stringify(cue.value)
    if (!cue.value || now === saved) return
    try {
      const put = await book.put('cues', JSON.parse(now) as Cue)
      saved = now
      if (JSON.stringify(put) !== now) takeToo()
      state.value = JSON.stringify(cue.value) === saved ? 'saved' : 'saving'
      problem.value = ''
    } catch (error) {
      state.value = 'wrong'
      problem.value = error instanceof Refused ? error.message.replace(/^cues\[\d+\]\.?/, '') : String(error)
    }
  }

  function flush(): Promise<void> {
    window.clearTimeout(timer)
    saving = saving.then(save)
    return saving
  }

  watch(
    id,
    () => {
      const left = cue.value
      window.clearTimeout(timer)
      // Saves the unsaved changes of the cue that is being left.
      if (left && JSON.stringify(left) !== saved)
        book
          .put('cues', JSON.parse(JSON.stringify(left)) as Cue)
          .catch((error: unknown) => say(`“${left.name}” was not saved: ${String(error)}`, 'wrong'))
      take()
    },
    { immediate: true },
  )
  watch(() => book.outside, takeToo)
  // Trimming or replacing a file changes where beats end.
  watch(
    () => book.media,
    () => void measure(),
  )
  let usedText = usesText((cue.value?.beats ?? []) as AnyBeat[])
  let usedBy = cue.value?.id
  /** The door asks for a text once a beat uses it, and no longer once none does. */
  function followText(): void {
    const does = usesText((cue.value?.beats ?? []) as AnyBeat[])
    if (cue.value && cue.value.id === usedBy) {
      const next = followed(cue.value.door.text, usedText, does)
      if (next !== cue.value.door.text) cue.value.door.text = next
    }
    usedText = does
    usedBy = cue.value?.id
  }

  function later(): void {
    followText()
    window.clearTimeout(timer)
    if (JSON.stringify(cue.value) === saved) {
      state.value = 'saved'
      return
    }
    state.value = 'saving'
    timer = window.setTimeout(() => {
      void measure()
      void flush()
    }, SAVE_MS)
  }
  watch(cue, later, { deep: true })
  onScopeDispose(() => void flush())

  const beats = computed(() => (cue.value?.beats ?? []) as AnyBeat[])
  const chosenBeat = computed(() => beats.value.find((beat) => beat.id === chosen.value) ?? null)

  const picked = computed(() => {
    const others = also.value.filter((other) => other !== chosen.value)
    return [chosen.value, ...others].flatMap((one) => beats.value.find((beat) => beat.id === one) ?? [])
  })
  watch(chosen, () => {
    if (!chosen.value || !also.value.includes(chosen.value)) also.value = []
  })

  function choose(beatId: string, add: boolean): void {
    if (!add) {
      if (!also.value.includes(beatId)) also.value = []
      chosen.value = beatId
    } else if (picked.value.some((beat) => beat.id === beatId)) {
      const left = picked.value.map((beat) => beat.id).filter((one) => one !== beatId)
      also.value = left
      chosen.value = left[0] ?? null
    } else {
      also.value = [...picked.value.map((beat) => beat.id), beatId]
      chosen.value ??= beatId
    }
  }

  function chooseAll(): void {
    also.value = beats.value.map((beat) => beat.id)
    chosen.value ??= also.value[0] ?? null
  }

  function copy(): number {
    if (picked.value.length) shelve(picked.value)
    return picked.value.length
  }

  function paste(): number {
    const made = planted(shelved(), beats.value)
    cue.value?.beats.push(...made)
    also.value = made.map((beat) => beat.id)
    if (made[0]) chosen.value = made[0].id
    return made.length
  }

  function addBeat(kind: string, fields: BeatFields = {}): void {
    if (!cue.value) return
    const beat = {
      id: freeId(kind, new Set(beats.value.map((beat) => beat.id))),
      kind,
      start: { at_s: 0, after: null, edge: 'end', hit: 1 },
      only_if: [],
      unless: false,
      ...fields,
    }
    cue.value.beats.push(beat as unknown as Beat)
    chosen.value = beat.id
  }

  function removeBeat(beatId: string): void {
    if (!cue.value) return
    for (const beat of cue.value.beats) {
      if (beat.start.after === beatId) beat.start = { at_s: 0, after: null, edge: 'end', hit: 1 }
    }
    cue.value.beats = cue.value.beats.filter((beat) => beat.id !== beatId)
    const outcomes = new Set(beats.value.flatMap((beat) => beat.outcomes ?? []).map((outcome) => outcome.id))
    for (const beat of cue.value.beats)
      beat.only_if = beat.only_if.filter(
        (one) => one.drawn !== beatId && (!one.rolled || outcomes.has(one.rolled)),
      )
    if (chosen.value === beatId) chosen.value = null
  }

  function change(beatId: string, fields: BeatFields): void {
    const beat = beats.value.find((b) => b.id === beatId)
    if (beat) Object.assign(beat, fields)
  }

  return {
    cue,
    beats,
    spans,
    snags,
    told,
    sayCall: (call) => callWords.value.get(JSON.stringify(call)) ?? '…',
    chosen,
    chosenBeat,
    picked,
    problem,
    state,
    addBeat,
    removeBeat,
    choose,
    chooseAll,
    copy,
    paste,
    change,
    flush,
  }
}
