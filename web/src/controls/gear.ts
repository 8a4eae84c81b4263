/** Gear, hooks, inlets, patterns. */
import { at, never, ID, KIND, INSIDE, type Controls } from './control'

const hook = at('pages/rig/HookSetup.vue')
const lamp = at('pages/rig/LampRow.vue')
const lamps = at('pages/rig/LampsSetup.vue')
const inlet = at('pages/rig/InletsCard.vue')
const osc = at('pages/rig/OscCard.vue')
const pattern = at('parts/gear/PatternDialog.vue')
const gear = at('pages/rig/GearSetUp.vue')
const circles = at('pages/cue/stage/StageTargets.vue')

export const GEAR = {
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
} satisfies Partial<Controls>
