"""The simulated broadcaster at Tinwhistle Halt: its scenes, sources, filters and inputs."""

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
        "Tint": {
            "on": {"type": "bool", "value": False},
            "colour": {"type": "colour", "value": "#ffffff"},
            "opacity": {"type": "number", "min": 0, "max": 1, "value": 0.55},
        },
        "Glow": {
            "on": {"type": "bool", "value": True},
            "warmth": {"type": "number", "min": 0, "max": 100, "value": 60},
        },
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

COAT_PADS = [
    ("shoulder-right", "Right shoulder", "front", 0.25, 0.13, 0.14),
    ("shoulder-left", "Left shoulder", "front", 0.75, 0.13, 0.14),
    ("lapel-right-1", "Right lapel, top", "front", 0.37, 0.24, 0.1),
    ("lapel-right-2", "Right lapel, second", "front", 0.385, 0.37, 0.1),
    ("lapel-right-3", "Right lapel, third", "front", 0.41, 0.5, 0.1),
    ("lapel-right-4", "Right lapel, foot", "front", 0.44, 0.63, 0.1),
    ("lapel-left-1", "Left lapel, top", "front", 0.63, 0.24, 0.1),
    ("lapel-left-2", "Left lapel, second", "front", 0.615, 0.37, 0.1),
    ("lapel-left-3", "Left lapel, third", "front", 0.59, 0.5, 0.1),
    ("lapel-left-4", "Left lapel, foot", "front", 0.56, 0.63, 0.1),
    ("back-1", "Back, far left", "back", 0.26, 0.33, 0.14),
    ("back-2", "Back, left", "back", 0.42, 0.39, 0.14),
    ("back-3", "Back, right", "back", 0.58, 0.39, 0.14),
    ("back-4", "Back, far right", "back", 0.74, 0.33, 0.14),
]
"""The railway driver's coat: two pads on the shoulders, four down each lapel, four across the back. Right and left are
the wearer's; x goes from left to right as you look at a side.
"""


def _mirrored(half: list[tuple[float, float]]) -> tuple[float, ...]:
    """Returns a line down one half and up the other."""
    return tuple(number for x, y in [*half, *((1 - x, y) for x, y in reversed(half))] for number in (x, y))


def _coat(side: str, neck: float, lines: list[tuple[float, ...]]) -> list[tuple[str, tuple[float, ...]]]:
    edge = [
        (0.5, neck),
        (0.41, 0.03),
        (0.22, 0.07),
        (0.1, 0.13),
        (0.02, 0.6),
        (0.13, 0.63),
        (0.2, 0.3),
        (0.21, 0.6),
        (0.12, 0.98),
    ]
    return [(side, line) for line in (_mirrored(edge), *lines)]


COAT_OUTLINES = [
    *_coat(
        "front", 0.14,
        [
            (0.41, 0.03, 0.29, 0.19, 0.33, 0.24, 0.29, 0.29, 0.49, 0.72), (0.59, 0.03, 0.71, 0.19, 0.67, 0.24, 0.71, 0.29, 0.51, 0.72),
            (0.41, 0.03, 0.5, 0.7, 0.59, 0.03), (0.5, 0.7, 0.5, 0.98), (0.23, 0.76, 0.35, 0.74), (0.65, 0.74, 0.77, 0.76),
        ],
    ),
    *_coat("back", 0.06, [(0.41, 0.03, 0.41, 0.1, 0.59, 0.1, 0.59, 0.03), (0.21, 0.58, 0.79, 0.58), (0.21, 0.62, 0.79, 0.62), (0.5, 0.62, 0.5, 0.98)]),
]  # fmt: skip

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
