/** Beats and what they have in common. */
import { at, never, ID, KIND, INSIDE, type Controls } from './control'

const when = at('pages/cue/settings/BeatWhen.vue')
const conditions = at('pages/cue/settings/BeatConditions.vue')
const look = at('pages/cue/settings/BeatLook.vue')
const sound = at('pages/cue/settings/BeatSound.vue')
const fades = at('pages/cue/settings/BeatFades.vue')
const words = at('pages/cue/settings/BeatWords.vue')
const what = at('pages/cue/settings/BeatSettings.vue')
const broadcast = at('pages/cue/settings/BeatBroadcast.vue')
const avatar = at('pages/cue/settings/BeatAvatar.vue')
const out = at('pages/cue/settings/BeatOut.vue')
const thing = at('pages/cue/settings/BeatThing.vue')
const throwing = at('pages/cue/settings/BeatThrow.vue')
const burst = at('pages/cue/settings/BeatBurst.vue')
const chance = at('pages/cue/settings/ChanceSettings.vue')
const draw = at('pages/cue/settings/BeatDraw.vue')
const bar = at('pages/cue/settings/BeatBar.vue')
const speech = at('pages/cue/settings/BeatSpeech.vue')
const count = at('pages/cue/settings/BeatCount.vue')
const light = at('pages/cue/settings/BeatLight.vue')
const circles = at('pages/cue/stage/StageTargets.vue')

const BEAT = {
  id: ID,
  kind: KIND,
  start: INSIDE,
  only_if: conditions,
  unless: conditions,
  whose: at('pages/cue/settings/BeatWhose.vue'),
}
const TIMED = { ...BEAT, length: when }
const FADED = { ...TIMED, fade_in_s: fades, fade_out_s: fades }
const SEEN_ALONE = {
  place: look,
  layer: at('pages/cue/stage/StageLayers.vue'),
  opacity: look,
  corner: look,
  flip: look,
  enter: look,
  leave: look,
  fade_in_s: look,
  fade_out_s: look,
  overlays: look,
}
const ALL_OVER = never('flies over the whole overlay')
const SEEN = { ...TIMED, ...SEEN_ALONE }
const HEARD = { ...TIMED, volume: sound, duck: sound, fade_in_s: fades, fade_out_s: fades, overlays: look }

export const BEATS = {
  Place: { x: look, y: look, w: look, h: look },
  Start: { at_s: when, after: when, edge: when, hit: when },
  ForSeconds: { s: when },
  ForLoops: { loops: when },
  FromFile: { file: what },
  FromFace: { face: what },
  FromJar: { jar: what, count: what },
  Dice: { count: chance, sides: chance },
  Outcome: {
    id: ID,
    name: chance,
    when: chance,
    is: chance,
    number: chance,
    numbers: chance,
    weight: chance,
  },
  PictureBeat: { ...SEEN, media: what },
  ClipBeat: { ...SEEN, media: what, volume: sound, duck: sound },
  SoundBeat: { ...HEARD, media: what },
  SpeechBeat: {
    ...HEARD,
    text: words,
    part: speech,
    caption: speech,
    mouth: speech,
    place: at('pages/cue/stage/useHandles.ts'),
    mouth_place: speech,
    size: speech,
  },
  CaptionBeat: { ...SEEN, text: words, size: words, colour: words, plate: words, face: words, align: words },
  BarBeat: { ...SEEN, count: bar, goal: bar, shape: bar, colour: bar, plate: bar, title: bar, says: bar },
  BurstBeat: {
    ...SEEN,
    media: what,
    shape: burst,
    colours: burst,
    count: burst,
    spread: burst,
    speed: burst,
    gravity: burst,
    bounce: burst,
    life_s: burst,
  },
  ThrowBeat: {
    ...SEEN,
    place: ALL_OVER,
    opacity: ALL_OVER,
    corner: ALL_OVER,
    flip: ALL_OVER,
    enter: ALL_OVER,
    leave: ALL_OVER,
    fade_in_s: ALL_OVER,
    fade_out_s: ALL_OVER,
    media: what,
    count: throwing,
    every_s: throwing,
    origin: throwing,
    from_x: circles,
    from_y: circles,
    targets: throwing,
    flight_s: throwing,
    arc: throwing,
    spin: throwing,
    linger_s: throwing,
    landing: throwing,
    size: throwing,
    colour: throwing,
    thickness: throwing,
  },
  HapticsBeat: {
    ...TIMED,
    pattern: at('pages/cue/settings/BeatHaptics.vue'),
    strength: at('pages/cue/settings/BeatHaptics.vue'),
  },
  SceneBeat: { ...TIMED, scene: broadcast },
  SourceBeat: {
    ...TIMED,
    scene: broadcast,
    source: broadcast,
    any_source: broadcast,
    beginning: broadcast,
    hide_others: broadcast,
    visible: broadcast,
  },
  FilterBeat: { ...FADED, sources: broadcast, filter: broadcast, setting: broadcast, value: broadcast },
  LightBeat: { ...FADED, fixtures: light, colour: light, level: light, look: light, period_s: light },
  AvatarBeat: {
    ...TIMED,
    model: avatar,
    outfit: avatar,
    expressions: avatar,
    pose: avatar,
  },
  VoiceBeat: { ...FADED, preset: avatar, pitch: avatar, mix: avatar },
  KeysBeat: { ...TIMED, combo: at('pages/cue/settings/BeatKeys.vue') },
  SetBeat: {
    ...FADED,
    gear: thing,
    thing,
    setting: thing,
    value: at('pages/cue/settings/SettingOrViewer.vue'),
  },
  RewardBeat: { ...TIMED, rewards: out, sets: out, on: out, cost: out },
  TapBeat: { ...BEAT, combo: at('pages/cue/settings/BeatKeys.vue') },
  DoBeat: { ...BEAT, gear: thing, thing, deed: thing, values: thing },
  HookBeat: { ...BEAT, hook: out, payload: out, then_s: out, then_payload: out },
  CountBeat: { ...BEAT, name: count, add: count },
  ReplyBeat: { ...BEAT, text: words },
  FireBeat: { ...BEAT, cue: out },
  ChanceBeat: { ...BEAT, ...SEEN_ALONE, dice: chance, outcomes: chance, spin_s: chance },
  DrawBeat: { ...BEAT, ...SEEN_ALONE, jar: draw, title: draw, spin_s: draw },
  PointsBeat: { ...BEAT, give: at('pages/cue/settings/BeatPoints.vue') },
  WinBeat: { ...BEAT, what: at('pages/cue/settings/BeatWin.vue') },
} satisfies Partial<Controls>
