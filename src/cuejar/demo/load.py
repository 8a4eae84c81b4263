"""The demo's book: Tinwhistle Halt."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Any

from cuejar.demo.make import FILES
from cuejar.media.library import shown_name


def _media() -> list[dict[str, Any]]:
    entries = []
    for path in sorted(FILES.iterdir()):
        file_hash = hashlib.sha256(path.read_bytes()).hexdigest()
        entries.append(
            {"id": path.stem, "name": shown_name(path.name).replace("-", " ").capitalize(), "file": file_hash}
        )
    return entries


def demo_files() -> list[Path]:
    """The demo's media files, which a new data folder takes into its library."""
    return sorted(FILES.iterdir())


def _dice() -> dict[str, Any]:
    """Three dice: a pair rings the bell, three alike send paper tickets flying with a fanfare."""
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


def demo_book() -> dict[str, Any]:
    posters = [entry["id"] for entry in _media() if entry["id"].startswith("poster-")]
    return {
        "format": "cue-jar-book",
        "version": 1,
        "lanes": [{"id": "yard", "name": "Yard"}, {"id": "stage", "name": "Stage"}, {"id": "tannoy", "name": "Tannoy"}],
        "overlays": [{"id": "stream", "name": "Stream"}],
        "media": _media(),
        "rewards": [
            {"id": "whistle", "title": "Steam whistle", "cost": 250, "prompt": "One long, one short."},
            {"id": "poster", "title": "Waiting-room poster", "cost": 200, "prompt": "One of six, up for ten seconds."},
            {
                "id": "dice",
                "title": "Shunter's dice",
                "cost": 100,
                "prompt": "A pair rings the bell; three alike, and tickets fly.",
            },
        ],
        "jars": [
            {
                "id": "posters",
                "name": "Posters",
                "kind": "media",
                "rule": "no_repeat",
                "entries": [{"value": p} for p in posters],
            }
        ],
        "cues": [
            _dice(),
            {
                "id": "steam-whistle",
                "name": "Steam whistle",
                "tags": ["yard"],
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
                "id": "waiting-room-poster",
                "name": "Waiting-room poster",
                "tags": ["yard"],
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
