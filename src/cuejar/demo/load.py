"""The demo's book: Tinwhistle Halt."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Any

from cuejar.demo import outside
from cuejar.demo.make import FILES
from cuejar.media.library import shown_name

BROADCAST = "broadcast"
"""The id of the demo's broadcaster."""


def _media() -> list[dict[str, Any]]:
    entries = []
    for path in sorted(FILES.iterdir()):
        file_hash = hashlib.sha256(path.read_bytes()).hexdigest()
        entries.append(
            {"id": path.stem, "name": shown_name(path.name).replace("-", " ").capitalize(), "file": file_hash}
        )
    return entries


def demo_files() -> list[Path]:
    """Returns the demo's media files, which a new data folder adds to its library."""
    return sorted(FILES.iterdir())


def _dice() -> dict[str, Any]:
    """Throws three dice: a pair rings the bell, three alike send paper tickets flying with a fanfare."""
    outcomes = [
        {"id": "alike", "name": "Three alike", "when": "all_equal"},
        {"id": "pair", "name": "A pair", "when": "pair"},
        {"id": "nothing", "name": "Not this time"},
    ]
    after = {"after": "dice", "edge": "end"}
    return {
        "id": "shunters-dice",
        "name": "Shunter's dice",
        "tags": ["yard"],
        "calls": [{"kind": "reward", "reward": "dice"}],
        "door": {"viewer_cooldown_s": 30},
        "lane": "yard",
        "beats": [
            {
                "id": "dice",
                "kind": "chance",
                "dice": {"count": 3},
                "spin_s": 2.5,
                "outcomes": outcomes,
                "place": {"x": 0.3, "y": 0.24, "w": 0.4, "h": 0.44},
            },
            {
                "id": "tickets",
                "kind": "burst",
                "media": {"file": "paper-ticket"},
                "start": after,
                "length": {"s": 4},
                "only_if": [{"rolled": "alike"}],
                "place": {"x": 0, "y": 0, "w": 1, "h": 1},
                "count": 90,
            },
            {
                "id": "fanfare",
                "kind": "sound",
                "media": {"file": "fanfare"},
                "start": after,
                "only_if": [{"rolled": "alike"}],
            },
            {
                "id": "bell",
                "kind": "sound",
                "media": {"file": "platform-bell"},
                "start": after,
                "only_if": [{"rolled": "pair"}],
            },
        ],
    }


def _signalman() -> dict[str, Any]:
    """Draws somebody on the platform, and rolls two dice for them: on a double they are signalman of the night."""
    drawn = {"whose": "drawn", "start": {"after": "draw"}}
    rolled = {"whose": "drawn", "start": {"after": "dice"}}
    low = {"kind": "caption", "length": {"s": 5}, "place": {"x": 0.15, "y": 0.8, "w": 0.7, "h": 0.12}}
    return {
        "id": "signalman-of-the-night",
        "name": "Signalman of the night",
        "tags": ["yard"],
        "pad": {"colour": "straw", "mark": "signal"},
        "calls": [{"kind": "chat", "match": "is", "text": "!signalman"}],
        "door": {"cooldown_s": 60},
        "lane": "yard",
        "beats": [
            {
                "id": "draw",
                "kind": "draw",
                "jar": "platform",
                "title": "Signalman of the night",
                "spin_s": 4,
                "place": {"x": 0.2, "y": 0.28, "w": 0.6, "h": 0.26},
            },
            {
                "id": "dice",
                "kind": "chance",
                "dice": {"count": 2},
                "spin_s": 2.5,
                "outcomes": [
                    {"id": "double", "name": "A double", "when": "pair"},
                    {"id": "none", "name": "No double"},
                ],
                "place": {"x": 0.35, "y": 0.26, "w": 0.3, "h": 0.4},
                **drawn,
            },
            {
                "id": "face",
                "kind": "picture",
                "media": {"face": "viewer"},
                "length": {"s": 4},
                "corner": 1,
                "enter": "pop",
                "place": {"x": 0.43, "y": 0.06, "w": 0.14, "h": 0.25},
                **rolled,
            },
            {
                **low,
                "id": "wins",
                "text": "{{viewer}} is the signalman of the night!",
                "only_if": [{"rolled": "double"}],
                **rolled,
            },
            {
                "id": "prize",
                "kind": "win",
                "what": "A signal lamp, painted by hand",
                "only_if": [{"rolled": "double"}],
                **rolled,
            },
            {**low, "id": "next-time", "text": "Not tonight, {{viewer}}", "only_if": [{"rolled": "none"}], **rolled},
            {
                **low,
                "id": "nobody",
                "text": "Nobody on the platform",
                "start": drawn["start"],
                "only_if": [{"rolled": "nobody"}],
            },
        ],
    }


def _broadcast() -> list[dict[str, Any]]:
    """Adds scenes, sources and filters of the demo, each of which goes back by itself."""
    colour = {"need": True, "kind": "colour"}
    tint = {"kind": "filter", "sources": ["Bench cam"], "filter": "Tint", "fade_in_s": 0.6, "fade_out_s": 1.2}
    fog = {"kind": "filter", "sources": ["Bench cam"], "filter": "Fog", "setting": "amount"}
    return [
        {
            "id": "night-mail",
            "name": "Night mail",
            "tags": ["stage"],
            "pad": {"colour": "slate", "mark": "train"},
            "calls": [{"kind": "reward", "reward": "night-mail"}],
            "door": {"cooldown_s": 60},
            "lane": "stage",
            "beats": [
                {"id": "scene", "kind": "scene", "scene": "Night mail", "length": {"s": 12}},
                {
                    "id": "train",
                    "kind": "source",
                    "scene": "Night mail",
                    "any_source": True,
                    "beginning": "Mail",
                    "hide_others": True,
                    "length": "to_end",
                },
                {"id": "rumble", "kind": "sound", "media": {"file": "express-rumble"}, "duck": 0.5, "fade_out_s": 0.5},
            ],
        },
        {
            "id": "tint-the-bench",
            "name": "Tint the bench",
            "tags": ["stage"],
            "calls": [
                {"kind": "reward", "reward": "tint"},
                {"kind": "chat", "match": "starts", "text": "!tint"},
            ],
            "door": {"text": colour, "viewer_cooldown_s": 20},
            "lane": "stage",
            "entry": "overlap",
            "beats": [
                {**tint, "id": "colour", "setting": "colour", "value": "{{colour}}", "length": {"s": 30}},
                {"id": "on", "kind": "filter", "sources": ["Bench cam"], "filter": "Tint", "length": {"s": 30}},
            ],
        },
        {
            "id": "fog-on-the-line",
            "name": "Fog on the line",
            "tags": ["stage"],
            "pad": {"colour": "sky", "mark": "lantern"},
            "calls": [{"kind": "reward", "reward": "fog"}],
            "lane": "stage",
            "entry": "extend",
            "beats": [{**fog, "id": "fog", "value": 70.0, "length": {"s": 60}, "fade_in_s": 4, "fade_out_s": 6}],
        },
        {
            "id": "snow-in-the-yard",
            "name": "Snow in the yard",
            "tags": ["stage"],
            "calls": [{"kind": "chat", "match": "is", "text": "!snow"}],
            "door": {"cooldown_s": 90},
            "lane": "stage",
            "beats": [
                {"id": "yard", "kind": "scene", "scene": "Yard cam", "length": {"s": 10}},
                {
                    "id": "snow",
                    "kind": "source",
                    "scene": "Yard cam",
                    "source": "Snow",
                    "start": {"after": "yard", "edge": "start", "at_s": 2},
                    "length": {"s": 6},
                },
            ],
        },
    ]


MOUTHS = {"mouths": [f"stationmaster-{how}" for how in ("closed", "half", "wide")], "blink": "stationmaster-blink"}


def _cast() -> list[dict[str, Any]]:
    """Adds the cast of Tinwhistle Halt. Aunt Dorrie is for members."""
    return [
        {"id": "clerk", "name": "Clerk", "base": "en-gb", "may": ["echo", "tannoy"], **MOUTHS},
        {"id": "marlow", "name": "Marlow", "base": "en-gb-scotland+m3", "pitch": 0.7, "rate": 0.9,
         "may": ["echo", "tunnel", "giant"], **MOUTHS},
        {"id": "pip", "name": "Pip", "base": "en-gb+f3", "pitch": 1.5, "rate": 1.1, "may": ["small", "backwards"], **MOUTHS},
        {"id": "aunt-dorrie", "name": "Aunt Dorrie", "base": "en-gb-x-rp+f2", "pitch": 1.2, "who": ["member", "vip"],
         "may": ["echo"], **MOUTHS},
        {"id": "old-harbour", "name": "Old Harbour", "base": "en-029+m5", "pitch": 0.5, "rate": 0.85, "effect": "tunnel",
         "may": ["robot"], **MOUTHS},
    ]  # fmt: skip


def _ask() -> dict[str, Any]:
    """Adds a text read aloud with the stationmaster's mouth."""
    return {
        "id": "ask-the-stationmaster",
        "name": "Ask the stationmaster",
        "tags": ["tannoy"],
        "calls": [
            {"kind": "reward", "reward": "ask"},
            {"kind": "tip", "from": 5},
            {"kind": "chat", "match": "starts", "text": "!say"},
        ],
        "door": {"text": {"need": True, "max": 240}},
        "lane": "tannoy",
        "beats": [
            {"id": "bell", "kind": "sound", "media": {"file": "platform-bell"}, "volume": 50, "length": {"s": 0.6}},
            {
                "id": "reads",
                "kind": "speech",
                "text": "{{text}}",
                "mouth": True,
                "duck": 0.35,
                "start": {"after": "bell", "edge": "start", "at_s": 0.5},
            },
        ],
    }


AUDIENCES: list[dict[str, Any]] = [
    {
        "id": "friday",
        "name": "Friday evening",
        "viewers": 140,
        "calls": 420,
        "likes": "by_price",
        "curve": [
            {"at_min": 0, "level": 25},
            {"at_min": 15, "level": 60},
            {"at_min": 50, "level": 45},
            {"at_min": 75, "level": 100},
            {"at_min": 100, "level": 70},
            {"at_min": 120, "level": 15},
        ],
        "raids": [{"at_min": 72, "viewers": 60}],
        "outages": [{"at_min": 40, "for_min": 3, "gear": "broadcast"}],
        "hands": [{"at_min": 58, "path": "broadcast/scene", "value": "Tea table"}],
    },
    {
        "id": "goods",
        "name": "Goods night",
        "viewers": 35,
        "followers": 0.8,
        "members": 0.4,
        "length_min": 180,
        "calls": 90,
        "manners": {"patient": 80, "keen": 15, "spammer": 0, "nonsense": 5},
    },
]


def demo_book() -> dict[str, Any]:
    posters = [entry["id"] for entry in _media() if entry["id"].startswith("poster-")]
    return {
        "format": "cue-jar-book",
        "version": 1,
        "lanes": [{"id": "yard", "name": "Yard"}, {"id": "stage", "name": "Stage"}, {"id": "tannoy", "name": "Tannoy"}],
        "overlays": [{"id": "stream", "name": "Stream"}],
        "audiences": AUDIENCES,
        "media": _media(),
        "rewards": [
            {
                "id": "whistle",
                "title": "Steam whistle",
                "cost": 250,
                "prompt": "One long, one short.",
                "tags": ["heard"],
                "colour": "#e08a6c",
            },
            {"id": "poster", "title": "Waiting-room poster", "cost": 200, "prompt": "One of six, up for ten seconds."},
            {
                "id": "dice",
                "title": "Shunter's dice",
                "cost": 100,
                "prompt": "A pair rings the bell; three alike, and tickets fly.",
            },
            {
                "id": "night-mail",
                "title": "Night mail",
                "cost": 1200,
                "prompt": "One of six trains goes by.",
                "price": {"kind": "rising", "factor": 1.4, "half_life_s": 900, "most": 4000, "step": 50},
                "colour": "#8aa6dc",
            },
            {
                "id": "tint",
                "title": "Tint the bench",
                "cost": 400,
                "text": True,
                "tags": ["bench"],
                "colour": "#56b8ad",
            },
            {
                "id": "ask",
                "title": "Ask the stationmaster",
                "cost": 600,
                "text": True,
                "prompt": "It is read aloud. Pip: and Marlow (echo): work too.",
            },
            {
                "id": "fog",
                "title": "Fog on the line",
                "cost": 800,
                "prompt": "A minute of fog.",
                "price": {"kind": "first", "then": 500},
                "tags": ["bench"],
            },
            *outside.REWARDS,
        ],
        "sets": [
            {"id": "bench", "name": "Only at the bench", "rewards": ["tint", "fog"], "scenes": ["Workbench"]},
            {"id": "loud", "name": "The loud ones", "rewards": outside.LOUD},
        ],
        "house": {
            "faces": True,
            "hook_places": [{"host": "127.0.0.1", "private": True}],
            "pads": ["steam-whistle", "night-mail", "mind-the-gap", "fog-on-the-line", "waiting-room-poster"],
        },
        "gear": [{"id": BROADCAST, "kind": "broadcaster", "name": "Broadcaster"}, *outside.GEAR],
        "patterns": outside.patterns(),
        "inlets": outside.INLETS,
        "cast": _cast(),
        "reading": {"default": "clerk"},
        "words": [
            {"id": "house-rules", "name": "House rules", "entries": [{"text": "grotbag"}, {"text": "blatherskite"}]},
            {
                "id": "gentler",
                "name": "Gentler words",
                "replace": "teapot",
                "entries": [{"text": "noodlehead"}, {"text": "twerp"}],
            },
        ],
        "looks": [
            {
                "id": "bench-night",
                "name": "Bench night",
                "values": {
                    "broadcast/scene": "Workbench",
                    "broadcast/source/Workbench/Magnifier/visible": False,
                    "broadcast/filter/Bench cam/Fog/amount": 0,
                    "broadcast/filter/Bench cam/Tint/on": False,
                },
            }
        ],
        "jars": [
            {
                "id": "posters",
                "name": "Posters",
                "kind": "media",
                "rule": "no_repeat",
                "entries": [{"value": p} for p in posters],
            },
            {
                "id": "platform",
                "name": "On the platform",
                "kind": "viewers",
                "rule": "bag",
                "draws": {"within_min": 20, "weights": {"member": 2}},
            },
        ],
        "cues": [
            *_broadcast(),
            *outside.cues(),
            _ask(),
            _dice(),
            _signalman(),
            {
                "id": "steam-whistle",
                "name": "Steam whistle",
                "tags": ["yard"],
                "pad": {"size": "large", "colour": "straw", "mark": "whistle"},
                "calls": [{"kind": "reward", "reward": "whistle"}, {"kind": "chat", "match": "is", "text": "!whistle"}],
                "door": {"cooldown_s": 20, "who": ["everyone"]},
                "lane": "yard",
                "beats": [
                    {
                        "id": "plume",
                        "kind": "picture",
                        "media": {"file": "whistle-plume"},
                        "place": {"x": 0.06, "y": 0.52, "w": 0.36, "h": 0.42},
                        "length": "to_end",
                        "enter": "pop",
                    },
                    {"id": "whistle", "kind": "sound", "media": {"file": "steam-whistle"}, "start": {"at_s": 0.2}},
                ],
            },
            {
                "id": "mind-the-gap",
                "name": "Mind the gap",
                "note": "Held: on as long as its pad is pressed, or until it is pressed again.",
                "tags": ["yard"],
                "pad": {"size": "wide", "colour": "brick", "mark": "signal"},
                "calls": [{"kind": "pad"}, {"kind": "said", "phrase": "mind the gap"}],
                "lane": "yard",
                "entry": "overlap",
                "beats": [
                    {
                        "id": "words",
                        "kind": "caption",
                        "text": "MIND THE GAP",
                        "colour": "#f4eedd",
                        "plate": "#8c2f1b",
                        "place": {"x": 0.22, "y": 0.78, "w": 0.56, "h": 0.14},
                        "enter": "from_below",
                        "length": "open",
                    },
                ],
            },
            {
                "id": "waiting-room-poster",
                "name": "Waiting-room poster",
                "tags": ["yard"],
                "pad": {"colour": "sand", "mark": "letter"},
                "calls": [{"kind": "reward", "reward": "poster"}],
                "lane": "yard",
                "beats": [
                    {
                        "id": "poster",
                        "kind": "picture",
                        "media": {"jar": "posters"},
                        "place": {"x": 0.66, "y": 0.1, "w": 0.28, "h": 0.66},
                        "length": {"s": 10},
                        "enter": "from_right",
                        "leave": "from_right",
                    },
                    {"id": "bell", "kind": "sound", "media": {"file": "platform-bell"}, "volume": 60},
                ],
            },
        ],
    }
