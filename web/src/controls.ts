/**
 * Where each field of the book is set by hand: the component that edits it, or why a person never should.
 *
 * A field of a model that is not here does not get past the type checker.
 */
import type { Schemas } from '@/api/client'
import type { BookModel } from '@/api/kinds'

/** Names of models that differ where they are read and written. */
type SchemaOf<M extends BookModel> = M extends keyof Schemas
  ? Schemas[M]
  : `${M}-Output` extends keyof Schemas
    ? Schemas[`${M}-Output`]
    : never

export type Control = { at: string } | { never: string }
type Controls = { [M in BookModel]: Record<keyof SchemaOf<M> & string, Control> }

const at = (component: string): Control => ({ at: component })
const never = (why: string): Control => ({ never: why })

const ID = never('given when it is made, and never changed')
const KIND = never('chosen when it is added')
const INSIDE = never('has fields of its own, each here')
const FORMAT = never('of the file, for programs that read it')

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
const bar = at('pages/cue/settings/BeatBar.vue')
const speech = at('pages/cue/settings/BeatSpeech.vue')
const light = at('pages/cue/settings/BeatLight.vue')
const hook = at('pages/rig/HookSetup.vue')
const lamp = at('pages/rig/LampRow.vue')
const lamps = at('pages/rig/LampsSetup.vue')
const house = at('pages/rig/HouseCard.vue')
const inlet = at('pages/rig/InletsCard.vue')
const osc = at('pages/rig/OscCard.vue')
const who = at('pages/cue/sentence/EditWho.vue')
const pace = at('pages/cue/sentence/EditPace.vue')
const text = at('pages/cue/sentence/EditText.vue')
const calls = at('pages/cue/sentence/EditCalls.vue')
const chip = at('pages/cue/sentence/CallChip.vue')
const chatCalls = at('pages/cue/sentence/ChatCalls.vue')
const countCalls = at('pages/cue/sentence/CountCalls.vue')
const lane = at('pages/lanes/LaneCard.vue')
const count = at('pages/counts/CountCard.vue')
const reward = at('pages/rewards/RewardDrawer.vue')
const price = at('pages/rewards/PriceRule.vue')
const set = at('pages/rewards/SetDialog.vue')
const bill = at('pages/rewards/PlaybillDialog.vue')
const jar = at('pages/jars/JarBench.vue')
const entries = at('pages/jars/JarEntries.vue')
const part = at('pages/cast/PartCard.vue')
const reading = at('pages/cast/ReadingCard.vue')
const lists = at('pages/cast/WordLists.vue')
const media = at('pages/media/MediaDrawer.vue')
const trim = at('parts/TrimEditor.vue')
const overlay = at('pages/rig/OverlayCard.vue')
const looks = at('pages/rig/LooksCard.vue')
const pattern = at('parts/gear/PatternDialog.vue')
const points = at('pages/viewers/PointsCard.vue')
const audience = at('pages/rehearse/AudiencePanel.vue')
const curve = at('pages/rehearse/AudienceCurve.vue')
const marks = at('pages/rehearse/CurveMarks.vue')
const happens = at('pages/rehearse/ElseHappens.vue')
const pad = at('pages/pads/PadFaceCard.vue')
const cue = at('pages/cue/CuePage.vue')
const snag = at('pages/snags/SnagRow.vue')
const gear = at('pages/rig/GearSetUp.vue')
const condition = at('parts/ConditionRow.vue')
const circles = at('pages/cue/stage/StageTargets.vue')

const BEAT = { id: ID, kind: KIND, start: INSIDE, only_if: conditions, unless: conditions }
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
const AT_ONCE = never('changes at once: there is nothing between')
const SUDDEN = { ...TIMED, fade_in_s: AT_ONCE, fade_out_s: AT_ONCE }
const ALL_OVER = never('flies over the whole overlay')
const SEEN = { ...TIMED, ...SEEN_ALONE }
const HEARD = { ...TIMED, volume: sound, duck: sound, fade_in_s: fades, fade_out_s: fades, overlays: look }

export const CONTROLS: Controls = {
  Book: {
    format: FORMAT,
    version: FORMAT,
    house: INSIDE,
    lanes: at('pages/lanes/LanesPage.vue'),
    rewards: at('pages/rewards/NewReward.vue'),
    sets: set,
    counts: at('pages/counts/CountsPage.vue'),
    jars: at('pages/jars/JarsPage.vue'),
    cues: at('pages/cues/CuesPage.vue'),
    cast: at('pages/cast/CastPage.vue'),
    gear: at('pages/rig/RigPage.vue'),
    overlays: at('pages/rig/RigPage.vue'),
    media: at('pages/media/MediaPage.vue'),
    words: lists,
    looks,
    patterns: pattern,
    inlets: inlet,
    audiences: at('pages/rehearse/RehearsePage.vue'),
    reading: INSIDE,
    points: INSIDE,
    playbill: INSIDE,
  },
  House: {
    open: at('parts/TopBar.vue'),
    volume: at('pages/desk/DeskVolume.vue'),
    cooldown_s: house,
    viewer_cooldown_s: house,
    shared_cooldown_s: house,
    air: house,
    open_cap_s: house,
    extend_cap_s: house,
    loudness_lufs: house,
    flash_guard: house,
    still_s: house,
    switches: at('pages/desk/DeskOutputs.vue'),
    shut_out: at('parts/viewers/ViewerCard.vue'),
    spared: at('parts/viewers/ViewerCard.vue'),
    points_per_min: at('pages/rewards/RewardsPage.vue'),
    haptics_level: house,
    haptics_most_s: house,
    haptics_pause_s: house,
    most_text: house,
    most_name: house,
    late_s: house,
    osc_port: osc,
    hook_places: hook,
    nights_kept: at('pages/nights/NightsPage.vue'),
    nights_days: at('pages/nights/NightsPage.vue'),
    pads: at('composables/usePadOrder.ts'),
  },
  Lane: { id: ID, name: lane, width: lane, line: lane, wait_s: lane, gap_s: lane, order: lane },
  Price: {
    kind: price,
    then: price,
    factor: price,
    half_life_s: price,
    least: price,
    most: price,
    step: price,
  },
  Reward: {
    id: ID,
    title: reward,
    cost: price,
    text: reward,
    prompt: reward,
    on: at('pages/rewards/RewardTicket.vue'),
    review: reward,
    price: INSIDE,
    tags: reward,
    colour: reward,
    closed: reward,
    elsewhere: never('known from the channel: who made a reward there'),
    channel: reward,
  },
  Points: {
    on: points,
    name: points,
    per_min: points,
    member_factor: points,
    follow: points,
    membership: points,
    month: points,
    tip: points,
    raid: points,
    balance_word: points,
    list_word: points,
  },
  Playbill: { words: bill, left_out: bill, samples: bill },
  RewardSet: { id: ID, name: set, rewards: set, on: set, scenes: set, off_scenes: set, categories: set },
  Feed: { by: count, reward: count },
  Count: { id: ID, name: count, goal: count, per: count, feeds: count },
  JarEntry: { value: entries, name: entries, weight: entries, on: entries },
  Jar: { id: ID, name: jar, kind: at('pages/jars/JarsPage.vue'), rule: jar, entries, folder: jar },
  CapWindow: { count: pace, per_s: pace },
  TextRule: { need: text, kind: text, min: text, max: text, too_long: text, choices: text, range: text },
  Door: {
    who,
    tier: who,
    shut_out: who,
    cooldown_s: pace,
    viewer_cooldown_s: pace,
    cooldown_from: pace,
    cap_stream: pace,
    cap_viewer: pace,
    cap_window: pace,
    categories: who,
    scenes: who,
    air: who,
    text: INSIDE,
    only_if: who,
    spared: who,
  },
  PadFace: { on: pad, size: pad, colour: pad, mark: pad, key: pad },
  HiddenSnag: {
    check: never('the snag that is hidden'),
    beat: never('the snag that is hidden'),
    reason: snag,
  },
  Cue: {
    id: ID,
    name: cue,
    on: at('pages/cues/CueRow.vue'),
    note: cue,
    tags: cue,
    calls,
    door: INSIDE,
    lane: at('pages/cue/sentence/EditLane.vue'),
    entry: at('pages/cue/sentence/EditLane.vue'),
    volume: sound,
    pad: INSIDE,
    hidden: snag,
    origin: never('where a shared cue came from, so that it is known when it comes again'),
    beats: at('pages/cue/score/AddBeat.vue'),
  },
  Part: {
    id: ID,
    name: part,
    on: part,
    base: part,
    rate: part,
    pitch: part,
    volume: part,
    effect: part,
    may: part,
    who: part,
    mouths: part,
    blink: part,
  },
  Reading: {
    default: reading,
    max_parts: reading,
    review: reading,
    links: reading,
    most_characters: reading,
    most_s: reading,
    viewers: reading,
  },
  Trim: { from_s: trim, to_s: trim },
  MediaEntry: { id: ID, name: media, file: media, trim: INSIDE, licence: media, credit: media },
  OverlayEntry: {
    id: ID,
    name: overlay,
    width: overlay,
    height: overlay,
    sound: overlay,
    picture: overlay,
    private: overlay,
    timers: overlay,
    ground: overlay,
  },
  RestingLook: { id: ID, name: looks, values: looks },
  BlockedWord: { text: lists, anywhere: lists },
  WordList: { id: ID, name: lists, on: lists, replace: lists, entries: lists },
  RewardCall: { kind: KIND, reward: at('pages/cue/sentence/RewardCalls.vue') },
  ChatCall: { kind: KIND, match: chatCalls, text: chatCalls, cost: chip },
  TipCall: { kind: KIND, from: chip, to: chip },
  RaidCall: { kind: KIND, from: chip, to: chip },
  FollowCall: { kind: KIND },
  MembershipCall: {
    kind: KIND,
    tier: chip,
    months_from: chip,
    months_to: chip,
    gifts_from: chip,
    gifts_to: chip,
  },
  HookCall: { kind: KIND, name: calls },
  PadCall: { kind: KIND },
  ClockCall: { kind: KIND, every_min: calls, at_min: calls, at_time: calls },
  CountCall: { kind: KIND, count: countCalls, at: countCalls, every: countCalls, goal: countCalls },
  StreamCall: { kind: KIND, state: calls },
  SceneCall: { kind: KIND, scene: calls },
  Condition: {
    not: condition,
    role: condition,
    text_is: condition,
    text_has: condition,
    text_contains: condition,
    text_from: condition,
    text_to: condition,
    live: condition,
    category: condition,
    scene: condition,
    gear: condition,
    count: condition,
    is: condition,
    number: condition,
    drawn: condition,
    rolled: condition,
    value: condition,
  },
  Place: { x: look, y: look, w: look, h: look },
  Start: { at_s: when, after: when, edge: when, hit: when },
  ForSeconds: { s: when },
  ForLoops: { loops: when },
  FromFile: { file: what },
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
  SceneBeat: { ...SUDDEN, scene: broadcast },
  SourceBeat: {
    ...SUDDEN,
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
    ...FADED,
    model: avatar,
    outfit: avatar,
    expression: avatar,
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
  CountBeat: { ...BEAT, name: out, add: out },
  ReplyBeat: { ...BEAT, text: words },
  FireBeat: { ...BEAT, cue: out },
  ChanceBeat: { ...BEAT, ...SEEN_ALONE, dice: chance, outcomes: chance, spin_s: chance },
  Gear: {
    id: ID,
    kind: KIND,
    name: at('pages/rig/GearCard.vue'),
    on: at('pages/rig/GearCard.vue'),
    address: gear,
    fixtures: lamps,
    groups: lamps,
    targets: circles,
    hook: INSIDE,
    priority: lamps,
  },
  Fixture: { id: ID, name: lamp, spared: lamp, profile: lamp, universe: lamp, address: lamp, gamma: lamp },
  Group: { id: ID, name: lamps, fixtures: lamps },
  Target: { id: ID, name: circles, x: circles, y: circles, r: circles },
  HookOut: { method: hook, headers: hook, body: hook, timeout_s: hook, tries: hook },
  HookPlace: { host: hook, private: hook },
  Inlet: {
    id: ID,
    name: inlet,
    on: inlet,
    kind: KIND,
    address: osc,
    senders: osc,
    does: osc,
    cue: osc,
    switch: osc,
    fields: inlet,
    viewer: inlet,
    text: inlet,
    per_min: inlet,
  },
  BodyPlace: {
    side: never('where a pad of the wearable sits, as the pattern came with it'),
    x: never('where a pad of the wearable sits, as the pattern came with it'),
    y: never('where a pad of the wearable sits, as the pattern came with it'),
    size: never('where a pad of the wearable sits, as the pattern came with it'),
  },
  Frame: { at_s: pattern, levels: pattern, curve: pattern },
  HapticPattern: { id: ID, name: pattern, length_s: pattern, places: pattern, frames: pattern },
  Audience: {
    id: ID,
    name: audience,
    viewers: audience,
    followers: audience,
    members: audience,
    length_min: audience,
    calls: audience,
    curve: audience,
    likes: audience,
    shares: audience,
    manners: INSIDE,
    raids: happens,
    hands: happens,
    outages: happens,
    seed: audience,
  },
  CurvePoint: { at_min: curve, level: curve },
  Manners: { patient: audience, keen: audience, spammer: audience, nonsense: audience },
  RaidAt: { at_min: marks, viewers: happens },
  HandAt: { at_min: marks, path: happens, value: happens },
  Outage: { at_min: marks, for_min: marks, gear: happens },
}
