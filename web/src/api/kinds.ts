/** Made from the tables of the core; changed there. */

export const BEAT_KINDS = {
  "picture": {
    "way": "shown",
    "output": "picture",
    "gear": null,
    "seen": true,
    "heard": false
  },
  "clip": {
    "way": "shown",
    "output": "clip",
    "gear": null,
    "seen": true,
    "heard": true
  },
  "sound": {
    "way": "shown",
    "output": "sound",
    "gear": null,
    "seen": false,
    "heard": true
  },
  "speech": {
    "way": "shown",
    "output": "speech",
    "gear": null,
    "seen": false,
    "heard": true
  },
  "caption": {
    "way": "shown",
    "output": "caption",
    "gear": null,
    "seen": true,
    "heard": false
  },
  "bar": {
    "way": "shown",
    "output": "caption",
    "gear": null,
    "seen": true,
    "heard": false
  },
  "burst": {
    "way": "shown",
    "output": "picture",
    "gear": null,
    "seen": true,
    "heard": false
  },
  "throw": {
    "way": "shown",
    "output": "avatar",
    "gear": null,
    "seen": true,
    "heard": false
  },
  "haptics": {
    "way": "shown",
    "output": "haptics",
    "gear": "haptics",
    "seen": false,
    "heard": false
  },
  "scene": {
    "way": "hold",
    "output": "broadcast",
    "gear": "broadcaster",
    "seen": true,
    "heard": false
  },
  "source": {
    "way": "hold",
    "output": "broadcast",
    "gear": "broadcaster",
    "seen": true,
    "heard": false
  },
  "filter": {
    "way": "hold",
    "output": "broadcast",
    "gear": "broadcaster",
    "seen": true,
    "heard": false
  },
  "light": {
    "way": "hold",
    "output": "light",
    "gear": "lights",
    "seen": true,
    "heard": false
  },
  "avatar": {
    "way": "hold",
    "output": "avatar",
    "gear": "avatar",
    "seen": true,
    "heard": false
  },
  "voice": {
    "way": "hold",
    "output": "voice",
    "gear": "voice",
    "seen": false,
    "heard": true
  },
  "keys": {
    "way": "hold",
    "output": "keys",
    "gear": "keys",
    "seen": false,
    "heard": false
  },
  "set": {
    "way": "hold",
    "output": "things",
    "gear": "things",
    "seen": true,
    "heard": false
  },
  "reward": {
    "way": "hold",
    "output": "reward",
    "gear": null,
    "seen": false,
    "heard": false
  },
  "tap": {
    "way": "strike",
    "output": "keys",
    "gear": "keys",
    "seen": false,
    "heard": false
  },
  "do": {
    "way": "strike",
    "output": "things",
    "gear": "things",
    "seen": false,
    "heard": false
  },
  "hook": {
    "way": "strike",
    "output": "hook",
    "gear": "hook",
    "seen": false,
    "heard": false
  },
  "count": {
    "way": "strike",
    "output": "count",
    "gear": null,
    "seen": false,
    "heard": false
  },
  "reply": {
    "way": "strike",
    "output": "reply",
    "gear": null,
    "seen": false,
    "heard": false
  },
  "fire": {
    "way": "strike",
    "output": "cue",
    "gear": null,
    "seen": false,
    "heard": false
  },
  "chance": {
    "way": "strike",
    "output": "chance",
    "gear": null,
    "seen": true,
    "heard": false
  },
  "draw": {
    "way": "strike",
    "output": "chance",
    "gear": null,
    "seen": true,
    "heard": false
  },
  "points": {
    "way": "strike",
    "output": "count",
    "gear": null,
    "seen": false,
    "heard": false
  },
  "win": {
    "way": "strike",
    "output": "count",
    "gear": null,
    "seen": false,
    "heard": false
  }
} as const
export type BeatKindName = keyof typeof BEAT_KINDS

export const GEAR_KINDS = {
  "channel": {
    "title": "Channel",
    "mark": "reward",
    "scheme": "http",
    "secret": "Token",
    "tells": false,
    "many": true
  },
  "broadcaster": {
    "title": "Broadcaster",
    "mark": "broadcast",
    "scheme": "ws",
    "secret": "Password",
    "tells": true,
    "many": false
  },
  "lights": {
    "title": "Lamps",
    "mark": "light",
    "scheme": "sacn",
    "secret": "",
    "tells": false,
    "many": false
  },
  "avatar": {
    "title": "Avatar",
    "mark": "avatar",
    "scheme": "osc",
    "secret": "",
    "tells": true,
    "many": false
  },
  "voice": {
    "title": "Voice box",
    "mark": "voice",
    "scheme": "osc",
    "secret": "",
    "tells": true,
    "many": false
  },
  "haptics": {
    "title": "Haptics",
    "mark": "haptics",
    "scheme": "osc",
    "secret": "",
    "tells": true,
    "many": false
  },
  "things": {
    "title": "Things",
    "mark": "things",
    "scheme": "ws",
    "secret": "Token",
    "tells": true,
    "many": true
  },
  "keys": {
    "title": "Keys",
    "mark": "keys",
    "scheme": "ws",
    "secret": "",
    "tells": false,
    "many": false
  },
  "hook": {
    "title": "Hook",
    "mark": "hook",
    "scheme": "http",
    "secret": "Signing secret",
    "tells": false,
    "many": true
  }
} as const
export type GearKindName = keyof typeof GEAR_KINDS

export const DOOR_CHECKS: Record<string, string> = {
  "house": "House and kind open",
  "cue": "Cue is on",
  "role": "Role",
  "viewer": "Not blocked",
  "air": "On air",
  "category": "Category",
  "scene": "Scene",
  "text": "Text",
  "condition": "Condition",
  "points": "Points",
  "cap_stream": "Limit per stream",
  "cap_viewer": "Limit per viewer",
  "cap_window": "Limit per period",
  "cooldown_viewer": "Viewer cooldown",
  "cooldown": "Cue cooldown",
  "lane": "Room in the lane"
}

export const ROLE_NAMES: Record<string, string> = {
  "everyone": "anyone",
  "follower": "followers",
  "member": "members",
  "vip": "VIPs",
  "moderator": "moderators",
  "streamer": "you"
}

export const ENTRY_NAMES = {
  "queue": "waits its turn",
  "overlap": "starts at once",
  "solo": "runs alone",
  "replace": "replaces its current run",
  "extend": "extends its current run",
  "refuse": "runs only when free"
} as const

export const AIR_NAMES = {
  "any": "always",
  "live": "only while live",
  "off": "only off air"
} as const

/** Every model that a book is made of. */
export type BookModel = 'Audience' | 'AvatarBeat' | 'BarBeat' | 'BlockedWord' | 'BodyPlace' | 'Book' | 'BurstBeat' | 'CapWindow' | 'CaptionBeat' | 'ChanceBeat' | 'ChatCall' | 'ClipBeat' | 'ClockCall' | 'Condition' | 'Count' | 'CountBeat' | 'CountCall' | 'Cue' | 'CurvePoint' | 'Dice' | 'DoBeat' | 'Door' | 'DrawBeat' | 'Draws' | 'Feed' | 'FilterBeat' | 'FireBeat' | 'Fixture' | 'FollowCall' | 'ForLoops' | 'ForSeconds' | 'Frame' | 'FromFace' | 'FromFile' | 'FromJar' | 'Gear' | 'Group' | 'HandAt' | 'HapticPattern' | 'HapticsBeat' | 'HiddenSnag' | 'HookBeat' | 'HookCall' | 'HookOut' | 'HookPlace' | 'House' | 'Inlet' | 'Jar' | 'JarEntry' | 'KeysBeat' | 'Lane' | 'LightBeat' | 'Manners' | 'MediaEntry' | 'MembershipCall' | 'Outage' | 'Outcome' | 'OverlayEntry' | 'PadCall' | 'PadFace' | 'Part' | 'PictureBeat' | 'Place' | 'Playbill' | 'Points' | 'PointsBeat' | 'Price' | 'RaidAt' | 'RaidCall' | 'Reading' | 'ReplyBeat' | 'RestingLook' | 'Reward' | 'RewardBeat' | 'RewardCall' | 'RewardPicture' | 'RewardSet' | 'SaidCall' | 'SceneBeat' | 'SceneCall' | 'SetBeat' | 'SoundBeat' | 'SourceBeat' | 'SpeechBeat' | 'Start' | 'StreamCall' | 'TapBeat' | 'Target' | 'TextRule' | 'ThrowBeat' | 'TipCall' | 'Trim' | 'VoiceBeat' | 'WinBeat' | 'WordList'

export const DEFAULT_LANE = {
  "id": "main",
  "name": "Main",
  "width": 1,
  "line": 20,
  "wait_s": 180.0,
  "gap_s": 0.0,
  "order": "arrival"
} as const
