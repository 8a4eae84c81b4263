/** A try of the cue being built: here, on the editor's stage alone, or on air. Pretended values are never saved. */
import { computed, onScopeDispose, reactive, ref, type Ref } from 'vue'
import { api, got, type Cue, type Schemas } from '@/api/client'
import { sayDuration } from '@/logic/duration'
import { OverlayStage } from '@/overlay/stage'
import type { CueDraft } from './useCueDraft'
import { attempt, say } from './useSay'

interface Pretend {
  name: string
  role: string
  text: string
  rolled: Record<string, string>
  /** The viewers who are drawn, by beat. */
  drawn: Record<string, string>
  speed: 1 | 4 | 16
}

type Message = Schemas['Preview']['messages'][number]

export interface Trying {
  pretend: Pretend
  stage: Ref<HTMLElement | undefined>
  playing: Ref<boolean>
  /** ms since the try began; null while none is playing here. */
  at: Ref<number | null>
  returns: Ref<Schemas['ReturnOut'][]>
  here: () => Promise<void>
  look: (cue: Cue | null) => Promise<void>
  stop: () => void
  onAir: () => Promise<void>
}

export function useTry(draft: CueDraft): Trying {
  const pretend = reactive<Pretend>({
    name: 'hopper_kit',
    role: 'follower',
    text: '',
    rolled: {},
    drawn: {},
    speed: 1,
  })
  const stage = ref<HTMLElement>()
  const began = ref<number | null>(null)
  const now = ref(0)
  const returns = ref<Schemas['ReturnOut'][]>([])
  let overlay: OverlayStage | null = null
  let timers: number[] = []

  function body() {
    const { name, role, text, rolled, drawn, speed } = pretend
    const said = (forced: Record<string, string>) =>
      Object.fromEntries(Object.entries(forced).filter(([, value]) => value.trim()))
    const viewer = { name, roles: role ? [role] : [], tier: 1 }
    return { viewer, text, rolled: said(rolled), drawn: said(drawn), speed }
  }

  function stop(): void {
    for (const timer of timers) window.clearTimeout(timer)
    timers = []
    overlay?.clear()
    began.value = null
  }

  function play(messages: Message[], length: number): void {
    if (!stage.value) return
    stop()
    overlay = new OverlayStage(stage.value, { sound: true, picture: true, now: () => Date.now() })
    const start = Date.now()
    began.value = start
    for (const message of messages) {
      const later = window.setTimeout(() => {
        if (message.t === 'show') {
          const until = message.until === null ? null : start + message.until
          overlay?.show({ ...message, at: start + message.at, until })
        } else if (message.t === 'hide') overlay?.hide(message.run, message.beat)
        else overlay?.setOthers(message.value)
      }, message.at ?? 0)
      timers.push(later)
    }
    timers.push(window.setTimeout(() => (began.value = null), length + 400))
    const tick = (): void => {
      now.value = Date.now()
      if (began.value !== null) requestAnimationFrame(tick)
    }
    tick()
  }

  function here(): Promise<void> {
    return look(draft.cue.value)
  }

  /** Plays a cue on the editor's stage, in its current or an earlier state. */
  async function look(cue: Cue | null): Promise<void> {
    await attempt(async () => {
      const value = cue as unknown as Record<string, never>
      const seen = await got(api.POST('/api/building/try', { body: { ...body(), value } }))
      if (seen.failed.length) say(seen.failed.join('; '), 'wrong')
      returns.value = seen.returns
      play(seen.messages as Message[], seen.length)
    })
  }

  async function onAir(): Promise<void> {
    await attempt(async () => {
      await draft.flush()
      const cue = draft.cue.value
      if (!cue || draft.state.value === 'wrong') return
      const done = await got(
        api.POST('/api/cues/{cue_id}/try', { params: { path: { cue_id: cue.id } }, body: body() }),
      )
      const fast = pretend.speed > 1 ? `, at ×${pretend.speed}` : ''
      if (done.failed.length) say(done.failed.join('; '), 'wrong')
      else if (done.until) say(`On air for ${sayDuration((done.until - Date.now()) / 1000)}${fast}.`, 'fine')
      else say(`On air until released${fast}.`, 'fine')
      pretend.speed = 1
    })
  }

  onScopeDispose(stop)
  const at = computed(() =>
    began.value === null ? null : Math.max(0, now.value - began.value) * pretend.speed,
  )
  return {
    pretend,
    stage,
    playing: computed(() => began.value !== null),
    at,
    returns,
    here,
    look,
    stop,
    onAir,
  }
}
