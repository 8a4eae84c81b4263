"""Fields of a book and their values in words."""

from __future__ import annotations

from typing import Any

from cuejar.core.words.calls import call_said
from cuejar.core.words.conditions import condition_said
from cuejar.core.words.names import AIR, ENTRIES, ROLES, Names
from cuejar.core.words.values import joined, listed, pace, seconds

_KINDS = {
    "lane": "lanes",
    "reward": "rewards",
    "rewards": "rewards",
    "left_out": "rewards",
    "sets": "sets",
    "counts": "counts",
    "file": "media",
    "mouths": "media",
    "blink": "media",
    "jar": "jars",
    "part": "cast",
    "default": "cast",
    "cue": "cues",
    "pads": "cues",
    "hook": "gear",
    "gear": "gear",
    "channel": "gear",
    "overlays": "overlays",
}
"""The keys that name an entry, and its list."""
_LABELS = {
    "on": "state",
    "air": "available",
    "cooldown_s": "cooldown",
    "viewer_cooldown_s": "viewer cooldown",
    "cap_stream": "limit per stream",
    "cap_viewer": "limit per viewer",
    "cap_window": "limit per period",
    "cooldown_from": "cooldown starts when",
    "entry": "start",
    "at_s": "at",
    "fade_in_s": "fade-in",
    "fade_out_s": "fade-out",
    "only_if": "only if",
    "unless": "unless",
    "file": "content",
    "line": "longest line",
    "wait_s": "longest wait",
    "gap_s": "gap between runs",
    "w": "width",
    "h": "height",
    "cost": "price",
    "shut_out": "blocked",
    "spared": "exempt",
}
_UNSAID = {
    "air": "house default",
    "cooldown_s": "house default",
    "lane": "first lane",
    "volume": "100",
    "prompt": "written automatically",
}
"""The meaning of an empty field."""


def label(key: str) -> str:
    """Returns a field's name for people: ``viewer_cooldown_s`` → *viewer cooldown*."""
    return _LABELS.get(key, key.removesuffix("_s").replace("_", " "))


def said(key: str, value: Any, names: Names) -> str:
    """Returns a value of a field in words."""
    if key in ("cooldown_s", "viewer_cooldown_s") and isinstance(value, (int, float)):
        return pace(value)
    if key == "calls" and isinstance(value, list):
        return joined([call_said(call, names) for call in value], "or") if value else "its pad only"
    if key == "who" and isinstance(value, list):
        return ", ".join(ROLES.get(str(role), str(role)) for role in value)
    if key == "only_if" and isinstance(value, list):
        return " and ".join(condition_said(one, names) for one in value) if value else "always"
    if key == "air" and isinstance(value, str):
        return AIR.get(value, value)
    if key == "entry" and isinstance(value, str):
        return ENTRIES.get(value, str(value))
    if value is None and key in _UNSAID:
        return _UNSAID[key]
    if value is None or value == "" or value == [] or value == {}:
        return "none"
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, (int, float)):
        return seconds(value) if key.endswith("_s") or key == "s" else f"{value:,.10g}"
    if isinstance(value, str):
        if key == "file" and len(value) == 64:
            return f"file {value[:6]}"
        return names.of(_KINDS[key], value) if key in _KINDS else value.replace("_", " ") if key == "length" else value
    if key == "cap_window" and isinstance(value, dict):
        return f"{value['count']:,} every {seconds(value['per_s'])}"
    if isinstance(value, dict):
        inside = {name: one for name, one in value.items() if one is not None}
        if set(inside) <= {"jar", "count"} and "jar" in inside:
            return f"from the jar {names.of('jars', inside['jar'])}"
        if len(inside) == 1:
            return said(*next(iter(inside.items())), names)
        return ", ".join(f"{label(name)} {said(name, one, names)}" for name, one in inside.items())
    return listed([said(key, one, names) for one in value])
