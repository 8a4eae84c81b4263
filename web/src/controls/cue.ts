/** A cue: what calls it, its door, its pad. */
import { at, never, ID, KIND, INSIDE, type Controls } from './control'

const sound = at('pages/cue/settings/BeatSound.vue')
const who = at('pages/cue/sentence/EditWho.vue')
const pace = at('pages/cue/sentence/EditPace.vue')
const text = at('pages/cue/sentence/EditText.vue')
const calls = at('pages/cue/sentence/EditCalls.vue')
const said = at('pages/cue/sentence/SaidCalls.vue')
const chip = at('pages/cue/sentence/CallChip.vue')
const chatCalls = at('pages/cue/sentence/ChatCalls.vue')
const countCalls = at('pages/cue/sentence/CountCalls.vue')
const pad = at('pages/pads/PadFaceCard.vue')
const cue = at('pages/cue/CuePage.vue')
const snag = at('pages/snags/SnagRow.vue')
const condition = at('parts/ConditionRow.vue')

export const CUE = {
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
  SaidCall: { kind: KIND, phrase: said, sounds: said },
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
} satisfies Partial<Controls>
