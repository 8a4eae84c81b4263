"""The demo's gear apart from the broadcaster, and the cues that use it."""

from __future__ import annotations

import math
from typing import Any

from cuejar.standins.halt import COAT_PADS

BOX = "signal-box-log"
"""The id of the demo's hook."""

GEAR: list[dict[str, Any]] = [
    {"id": "halt", "kind": "channel", "name": "Tinwhistle Halt"},
    {
        "id": "lamps",
        "kind": "lights",
        "name": "Lamps",
        "fixtures": [
            {"id": "signal", "name": "Signal lamp", "profile": "rgb", "address": 1},
            {"id": "flood", "name": "Yard flood", "profile": "dimmer_rgb", "address": 4},
            {"id": "strip", "name": "Shelf strip", "profile": "rgbw", "address": 8},
            {"id": "key", "name": "Key lamp", "profile": "dimmer", "address": 12, "spared": True},
        ],
        "groups": [{"id": "yard-lamps", "name": "Yard lamps", "fixtures": ["signal", "flood"]}],
    },
    {
        "id": "avatar",
        "kind": "avatar",
        "name": "Stationmaster",
        "targets": [
            {"id": "head", "name": "Head", "x": 0.74, "y": 0.56, "r": 0.13},
            {"id": "chest", "name": "Chest", "x": 0.74, "y": 0.86, "r": 0.1},
        ],
    },
    {"id": "voice-box", "kind": "voice", "name": "Voice box"},
    {"id": "coat", "kind": "haptics", "name": "Driver's coat"},
    {"id": "yard", "kind": "things", "name": "The yard"},
    {"id": "keys", "kind": "keys", "name": "Keys"},
    {
        "id": BOX,
        "kind": "hook",
        "name": "Signal-box log",
        "hook": {"body": '{"viewer": "{{viewer}}", "text": "{{text}}"}'},
    },
]

INLETS: list[dict[str, Any]] = [
    {
        "id": "parcel-office",
        "name": "Parcel office",
        "fields": {"parcels": "order.parcels"},
        "viewer": "order.sender",
        "text": "order.note",
    }
]


PLACES: dict[str, Any] = {pad: {"side": side, "x": x, "y": y, "size": size} for pad, _, side, x, y, size in COAT_PADS}
"""The places of the coat's pads."""


def patterns() -> list[dict[str, Any]]:
    """Returns rolling stock that goes up the coat and down, a coupling that jolts the lapels, and an express that
    rushes past.
    """

    def pattern(pattern_id: str, name: str, length_s: float, frames: list[dict[str, Any]]) -> dict[str, Any]:
        felt = {place for frame in frames for place in frame["levels"]}
        places = {place: PLACES[place] for place in PLACES if place in felt}
        return {"id": pattern_id, "name": name, "length_s": length_s, "places": places, "frames": frames}

    lapels = [[f"lapel-{side}-{n}" for side in ("right", "left")] for n in range(1, 5)]
    heights = [*reversed(lapels), ["shoulder-right", "shoulder-left", "back-1", "back-2", "back-3", "back-4"]]
    rolling = [
        {"at_s": round(i * 0.2, 2), "levels": dict.fromkeys(heights[i if i < 5 else 8 - i], 0.6)} for i in range(9)
    ]
    jolt = [
        {"at_s": 0, "levels": dict.fromkeys(lapels[0] + lapels[1], 1.0), "curve": "smooth"},
        {"at_s": 0.25, "levels": dict.fromkeys([pad for pair in lapels for pad in pair], 0.3), "curve": "line"},
        {"at_s": 0.6, "levels": {}},
    ]
    express = []
    for i in range(25):
        at = i * 0.16
        near = math.exp(-(((at - 2) / 0.9) ** 2))
        here = at / 4
        # From the front, the right of the coat comes first; from behind, the left.
        levels = {
            pad: round((0.25 + 0.65 * near) * beside, 2)
            for pad, place in PLACES.items()
            if (beside := 1 - abs((place["x"] if place["side"] == "front" else 1 - place["x"]) - here) / 0.22) > 0.2
        }
        express.append({"at_s": round(at, 2), "levels": levels, "curve": "step" if i % 2 else "line"})
    return [
        pattern("rolling-stock", "Rolling stock", 1.8, rolling),
        pattern("coupling-jolt", "Coupling jolt", 0.6, jolt),
        pattern("express", "Express", 4, express),
    ]


REWARDS: list[dict[str, Any]] = [
    {"id": "crossing", "title": "Level crossing", "cost": 350, "prompt": "The barrier comes down."},
    {"id": "danger", "title": "Signal at danger", "cost": 500, "prompt": "All lamps red."},
    {"id": "lamp-colour", "title": "Lamp colour", "cost": 400, "text": True, "prompt": "A colour for the lamps."},
    {"id": "top-hat", "title": "Top hat", "cost": 450, "prompt": "The stationmaster dresses up."},
    {"id": "parcels", "title": "Parcel toss", "cost": 700, "prompt": "Special delivery."},
    {"id": "treacle", "title": "Treacle spill", "cost": 900, "prompt": "It takes its time."},
    {"id": "rumble", "title": "Express rumble", "cost": 900, "prompt": "Felt, not seen."},
    {"id": "tannoy-voice", "title": "Tannoy voice", "cost": 1000, "prompt": "For 45 seconds."},
    {"id": "wind", "title": "Change of wind", "cost": 350, "text": True, "prompt": "A number from 0 to 359."},
    {"id": "tower", "title": "Fill the tower", "cost": 600, "prompt": "The valve opens."},
    {
        "id": "everybody",
        "title": "Everybody up",
        "cost": 1500,
        "prompt": "Scene, lamps, sound: nothing else meanwhile.",
    },
]

LOUD = ["whistle", "crossing", "everybody", "parcels"]


def _cue(
    cue_id: str, name: str, reward: str | None, tag: str, beats: list[dict[str, Any]], **more: Any
) -> dict[str, Any]:
    calls = [{"kind": "reward", "reward": reward}] if reward else []
    return {"id": cue_id, "name": name, "tags": [tag], "calls": calls, "lane": tag, "beats": beats, **more}


def cues() -> list[dict[str, Any]]:
    colour = {"text": {"need": True, "kind": "colour"}}
    fades = {"fade_in_s": 0.5, "fade_out_s": 1.5}
    hit = {"after": "parcels", "edge": "hit"}
    return [
        _cue(
            "level-crossing", "Level crossing", "crossing", "yard",
            [
                {"id": "barrier", "kind": "clip", "media": {"file": "crossing"}, "length": "natural",
                 "place": {"x": 0.0, "y": 0.34, "w": 1.0, "h": 0.66}},
                {"id": "bell", "kind": "sound", "media": {"file": "crossing-bell"}, "length": "to_end"},
            ],
        ),
        _cue(
            "signal-at-danger", "Signal at danger", "danger", "yard",
            [{"id": "red", "kind": "light", "colour": "#d2281e", "look": "breathe", "period_s": 2.5, "length": {"s": 25}, **fades}],
            entry="overlap",
        ),
        _cue(
            "lamp-colour", "Lamp colour", "lamp-colour", "yard",
            [{"id": "lamps", "kind": "light", "colour": "{{colour}}", "length": {"s": 30}, **fades}],
            entry="overlap", door=colour,
        ),
        _cue(
            "top-hat", "Top hat", "top-hat", "stage",
            [{"id": "hat", "kind": "avatar", "outfit": "Top hat", "length": {"s": 60}}],
            entry="extend",
        ),
        _cue(
            "parcel-toss", "Parcel toss", "parcels", "stage",
            [
                {"id": "parcels", "kind": "throw", "media": {"file": "parcel"}, "count": 6, "every_s": 0.45, "origin": "left",
                 "flight_s": 0.8, "arc": 0.22, "size": 0.14},
                {"id": "startled", "kind": "avatar", "expression": "Startled", "start": hit, "length": {"s": 3}},
                {"id": "jolt", "kind": "haptics", "pattern": "coupling-jolt", "start": hit},
                {"id": "thud", "kind": "sound", "media": {"file": "express-rumble"}, "volume": 60, "start": hit, "length": {"s": 0.6},
                 "fade_out_s": 0.3},
            ],
            entry="overlap",
        ),
        _cue(
            "treacle-spill", "Treacle spill", "treacle", "stage",
            [
                {"id": "treacle", "kind": "throw", "count": 9, "every_s": 0.5, "origin": "above", "flight_s": 1.4, "arc": 0,
                 "landing": "run", "linger_s": 6, "size": 0.13, "colour": "#5c2f0e", "thickness": 0.8, "targets": ["head"]},
                {"id": "sleepy", "kind": "avatar", "expression": "Sleepy", "start": {"after": "treacle", "edge": "hit", "hit": 3},
                 "length": {"s": 6}},
            ],
        ),
        _cue(
            "express-rumble", "Express rumble", "rumble", "stage",
            [{"id": "express", "kind": "haptics", "pattern": "express"}],
            entry="overlap",
        ),
        _cue(
            "tannoy-voice", "Tannoy voice", "tannoy-voice", "tannoy",
            [{"id": "voice", "kind": "voice", "preset": "Tannoy", "length": {"s": 45}}],
            entry="extend",
        ),
        _cue(
            "change-of-wind", "Change of wind", "wind", "yard",
            [
                {"id": "gust", "kind": "do", "gear": "yard", "thing": "vane", "deed": "spin", "values": {"turns": 2}},
                {"id": "vane", "kind": "set", "gear": "yard", "thing": "vane", "setting": "angle", "value": "{{number}}",
                 "length": {"s": 20}, "fade_in_s": 1.5, "fade_out_s": 1.5},
            ],
            entry="overlap", door={"text": {"need": True, "kind": "number", "range": [0, 359]}},
        ),
        _cue(
            "fill-the-tower", "Fill the tower", "tower", "yard",
            [
                {"id": "valve", "kind": "set", "gear": "yard", "thing": "tower", "setting": "valve", "value": True,
                 "length": {"s": 12}},
                {"id": "flow", "kind": "set", "gear": "yard", "thing": "tower", "setting": "flow", "value": 85,
                 "length": {"s": 12}, "fade_in_s": 2},
                {"id": "plate", "kind": "set", "gear": "yard", "thing": "turntable", "setting": "plate",
                 "value": "Water for {{viewer}}", "length": {"s": 12}},
            ],
            entry="extend",
        ),
        _cue(
            "everybody-up", "Everybody up", "everybody", "stage",
            [
                {"id": "yard", "kind": "scene", "scene": "Yard cam", "length": {"s": 12}},
                {"id": "lamps", "kind": "light", "colour": "random", "look": "chase", "period_s": 2, "length": {"s": 12}, **fades},
                {"id": "cheer", "kind": "avatar", "expressions": ["Cheer"], "pose": "Waving", "length": {"s": 12}},
                {"id": "fanfare", "kind": "sound", "media": {"file": "fanfare"}},
                {"id": "words", "kind": "caption", "text": "{{viewer}} wakes everybody up!", "length": {"s": 8}},
                {"id": "times", "kind": "count", "name": "woken"},
            ],
            entry="solo",
        ),
        _cue(
            "quiet-carriage", "Quiet carriage", None, "stage",
            [
                {"id": "off", "kind": "reward", "sets": ["loud"], "on": False, "length": {"s": 300}},
                {"id": "mute", "kind": "keys", "combo": "ControlLeft+KeyL", "length": {"s": 300}},
            ],
        ) | {"calls": [{"kind": "pad"}]},
        _cue(
            "new-passenger", "New passenger", None, "yard",
            [
                {"id": "welcome", "kind": "reply", "text": "Mind the gap, {{viewer}}!"},
                {"id": "log", "kind": "hook", "hook": BOX},
            ],
            entry="overlap",
        ) | {"calls": [{"kind": "follow"}, {"kind": "hook", "name": "Parcel office"}]},
    ]  # fmt: skip
