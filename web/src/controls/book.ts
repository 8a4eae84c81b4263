/** The book, the house and the lists. */
import { at, never, ID, INSIDE, type Controls } from './control'

const hook = at('pages/rig/HookSetup.vue')
const house = at('pages/rig/HouseCard.vue')
const inlet = at('pages/rig/InletsCard.vue')
const osc = at('pages/rig/OscCard.vue')
const lane = at('pages/lanes/LaneCard.vue')
const count = at('pages/counts/CountCard.vue')
const reward = at('pages/rewards/RewardDrawer.vue')
const phrases = at('pages/pads/PhrasesPage.vue')
const picture = at('pages/rewards/RewardPicture.vue')
const price = at('pages/rewards/PriceRule.vue')
const set = at('pages/rewards/SetDialog.vue')
const bill = at('pages/rewards/PlaybillDialog.vue')
const jar = at('pages/jars/JarBench.vue')
const entries = at('pages/jars/JarEntries.vue')
const draws = at('pages/jars/JarDraws.vue')
const part = at('pages/cast/PartCard.vue')
const reading = at('pages/cast/ReadingCard.vue')
const lists = at('pages/cast/WordLists.vue')
const media = at('pages/media/MediaDrawer.vue')
const trim = at('parts/TrimEditor.vue')
const overlay = at('pages/rig/OverlayCard.vue')
const looks = at('pages/rig/LooksCard.vue')
const pattern = at('parts/gear/PatternDialog.vue')
const points = at('pages/viewers/PointsCard.vue')

const FORMAT = never('of the file, for programs that read it')

export const BOOK = {
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
    bots: house,
    faces: house,
    listening: phrases,
    microphone: phrases,
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
    picture: INSIDE,
    closed: reward,
    elsewhere: never('known from the channel: who made a reward there'),
    channel: reward,
  },
  RewardPicture: { media: picture, x: picture, y: picture, zoom: picture },
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
  Playbill: { words: bill, left_out: bill, samples: bill, winners: bill },
  RewardSet: { id: ID, name: set, rewards: set, on: set, scenes: set, off_scenes: set, categories: set },
  Feed: { by: count, reward: count },
  Count: { id: ID, name: count, goal: count, per: count, feeds: count },
  JarEntry: { value: entries, name: entries, weight: entries, on: entries },
  Jar: {
    id: ID,
    name: jar,
    kind: at('pages/jars/JarsPage.vue'),
    rule: jar,
    entries,
    folder: jar,
    draws: INSIDE,
  },
  Draws: {
    who: draws,
    within_min: draws,
    roles: draws,
    tier: draws,
    new_only: draws,
    points_from: draws,
    caller: draws,
    weights: draws,
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
} satisfies Partial<Controls>
