"""What the simulated broadcaster has at Tinwhistle Halt: its scenes, sources, filters and inputs."""

from __future__ import annotations

from typing import Any

PASSWORD = "signal-box-47"
"""The password of the simulated broadcaster, unless another is given."""


def _source(name: str, draws: str, visible: bool = True, at: tuple[float, float, float, float] = (0, 0, 1, 1)) -> Any:
    return {"name": name, "draws": draws, "visible": visible, "at": list(at)}


SCENES: dict[str, list[dict[str, Any]]] = {
    "Workbench": [
        _source("Bench cam", "bench"),
        _source("Magnifier", "lens", False, (0.62, 0.08, 0.34, 0.5)),
        _source("Clock", "clock", True, (0.04, 0.06, 0.16, 0.26)),
    ],
    "Yard cam": [
        _source("Platform lamp", "lamp", True, (0.06, 0.1, 0.2, 0.8)),
        _source("Snow", "snow", False),
        _source("Timetable", "board", False, (0.62, 0.1, 0.32, 0.5)),
    ],
    "Night mail": [_source(f"Mail {n}", f"mail-{n}", n == 1) for n in range(1, 7)],
    "Tea table": [_source("Teapot", "tea")],
    "Signal box": [
        _source("Levers", "levers"),
        {**_source("Yard window", "scene", True, (0.55, 0.08, 0.4, 0.4)), "scene": "Yard cam"},
    ],
}

FILTERS: dict[str, dict[str, dict[str, Any]]] = {
    "Bench cam": {
        "Tint": {
            "on": {"type": "bool", "value": False},
            "colour": {"type": "colour", "value": "#ffffff"},
            "opacity": {"type": "number", "min": 0, "max": 1, "value": 0.55},
        },
        "Fog": {
            "on": {"type": "bool", "value": True},
            "amount": {"type": "number", "min": 0, "max": 100, "value": 0},
            "drift": {"type": "choice", "choices": ["still", "slow", "quick"], "value": "still"},
        },
    },
    "Platform lamp": {
        "Glow": {
            "on": {"type": "bool", "value": True},
            "warmth": {"type": "number", "min": 0, "max": 100, "value": 60},
        }
    },
}

INPUTS = {"Microphone": 1.0, "Layout sounds": 0.7, "Music": 0.4}

AVATAR = {
    "model": "Stationmaster",
    "outfit": "Porter",
    "pose": "Standing",
    "expression/Cheer": "off",
    "expression/Startled": "off",
    "expression/Sleepy": "off",
}
AVATAR_NAMES = {
    "model": ["Stationmaster", "Station cat"],
    "outfit": ["Porter", "Top hat", "Sou'wester"],
    "pose": ["Standing", "Waving", "Bowing"],
    "expression": ["Cheer", "Startled", "Sleepy"],
}

VOICE: dict[str, bool | float | str] = {"preset": "Plain", "pitch": 0.0, "mix": 1.0}
VOICE_NAMES = {"preset": ["Plain", "Tannoy", "Tunnel", "Small engine"]}

LAMPS = [
    ("signal", "Signal lamp", "rgb", 1, 1),
    ("flood", "Yard flood", "dimmer_rgb", 1, 4),
    ("strip", "Shelf strip", "rgbw", 1, 8),
    ("key", "Key lamp", "dimmer", 1, 12),
]
"""Each with its id, name, profile, universe and address."""

TOGGLES = {
    "ControlLeft+ShiftLeft+KeyM": "Microphone off",
    "F8": "Curtain",
    "ControlLeft+KeyL": "Layout lights",
}

HOOK_SECRET = "whsec_dGlud2hpc3RsZS1oYWx0LXNpZ25hbC1ib3g="
"""The secret of the simulated receiver of hooks."""

THINGS: list[dict[str, Any]] = [
    {
        "id": "vane",
        "name": "Weathervane",
        "settings": [
            {"id": "angle", "name": "Points to", "type": "number", "min": 0, "max": 359, "step": 1, "unit": "°", "value": 225},
            {"id": "lamp", "name": "Lamp", "type": "colour", "value": "#ffd9a0"},
        ],
        "deeds": [
            {
                "id": "spin",
                "name": "Spin round",
                "values": [{"id": "turns", "name": "Turns", "type": "number", "min": 1, "max": 9, "step": 1}],
            }
        ],
    },
    {
        "id": "tower",
        "name": "Water tower",
        "settings": [
            {"id": "valve", "name": "Valve open", "type": "bool", "value": False},
            {"id": "flow", "name": "Flow", "type": "number", "min": 0, "max": 100, "step": 5, "unit": "%", "value": 30},
        ],
        "deeds": [{"id": "drip", "name": "Let it drip", "values": []}],
    },
    {
        "id": "turntable",
        "name": "Turntable",
        "settings": [
            {"id": "road", "name": "Road", "type": "choice", "choices": ["Engine shed", "Goods yard", "Platform"],
             "value": "Engine shed"},
            {"id": "plate", "name": "Plate", "type": "text", "value": "Keep off"},
        ],
        "deeds": [],
    },
]  # fmt: skip
"""The things of the simulated bridge, each setting with its first value."""
