"""Properties of the gear and their values, in words."""

from __future__ import annotations

import re
from collections.abc import Iterable

from cuejar.core.book.book import Reward
from cuejar.core.facts.happenings import PropertyValue

REWARDS = {"on": "available", "cost": "price"}


def keys_said(combo: str) -> str:
    """Returns a key combination as people write it: ``ControlLeft+KeyM`` → *Control+M*."""
    plain = (re.sub(r"^(Control|Shift|Alt|Meta)Left$", r"\1", code) for code in combo.split("+"))
    return "+".join(re.sub(r"^(Key|Digit)(?=.$)", "", code) for code in plain)


def property_said(path: str, rewards: Iterable[Reward] = ()) -> str:
    """Returns the name of a property: ``broadcast/filter/Bench cam/Tint/colour`` → *Bench cam, Tint colour*.

    Args:
        rewards: those of the book, for their titles.
    """
    match path.split("/"):
        case ["broadcast", "scene"]:
            return "Scene"
        case ["broadcast", "source", scene, source, *_]:
            return f"{source} in {scene}"
        case ["broadcast", "filter", source, name, "on"]:
            return f"{source}, {name}"
        case ["broadcast", "filter", source, name, setting]:
            return f"{source}, {name} {setting}"
        case ["avatar", "expression", face]:
            return f"Face {face}"
        case ["avatar", what]:
            return f"Avatar’s {what}"
        case ["voice", what]:
            return f"Voice box {what}"
        case ["things", _, thing, setting]:
            return f"{thing} {setting}"
        case ["keys", combo]:
            return keys_said(combo)
        case ["reward", reward, what]:
            return f"{_title(reward, rewards)} {REWARDS.get(what, what)}"
        case ["sound", *_]:
            return "Other sounds"
        case ["light", lamp, setting]:
            return f"{lamp} {setting}"
        case parts:
            return " ".join(parts)


def thing_said(path: str, rewards: Iterable[Reward] = ()) -> str:
    """Returns what a property belongs to, for a list of effects: *the scene*, *Tint on Bench cam*, *signal*."""
    match path.split("/"):
        case ["broadcast", "scene"]:
            return "the scene"
        case ["broadcast", "source", _, source, *_]:
            return source
        case ["broadcast", "filter", source, name, *_]:
            return f"{name} on {source}"
        case ["light", lamp, *_]:
            return lamp
        case ["reward", reward, *_]:
            return _title(reward, rewards)
        case ["sound", *_]:
            return "other sounds"
    return property_said(path, rewards)


def value_said(value: PropertyValue) -> str:
    """Returns the value of a property: *on*, *0.35*, *Yard cam*."""
    if value is None:
        return "unknown"
    if isinstance(value, bool):
        return "on" if value else "off"
    return f"{round(value, 3):g}" if isinstance(value, int | float) else str(value)


def _title(reward: str, rewards: Iterable[Reward]) -> str:
    return next((one.title for one in rewards if one.id == reward), reward)
