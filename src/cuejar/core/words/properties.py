"""Properties of the gear and their values, in words."""

from __future__ import annotations

import re
from collections.abc import Iterable

from cuejar.core.book.book import Reward
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.paths import Family, read_path

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
    match read_path(path):
        case (Family.BROADCAST.value, ("scene",)):
            return "Scene"
        case (
            Family.BROADCAST.value,
            (
                "source",
                scene,
                source,
                *_,
            ),
        ):
            return f"{source} in {scene}"
        case (
            Family.BROADCAST.value,
            (
                "filter",
                source,
                name,
                "on",
            ),
        ):
            return f"{source}, {name}"
        case (
            Family.BROADCAST.value,
            (
                "filter",
                source,
                name,
                setting,
            ),
        ):
            return f"{source}, {name} {setting}"
        case (
            Family.AVATAR.value,
            (
                "expression",
                face,
            ),
        ):
            return f"Face {face}"
        case (Family.AVATAR.value, (what,)):
            return f"Avatar’s {what}"
        case (Family.VOICE.value, (what,)):
            return f"Voice box {what}"
        case (
            Family.THINGS.value,
            (
                _,
                thing,
                setting,
            ),
        ):
            return f"{thing} {setting}"
        case (Family.KEYS.value, (combo,)):
            return keys_said(combo)
        case (
            Family.REWARD.value,
            (
                reward,
                what,
            ),
        ):
            return f"{_title(reward, rewards)} {REWARDS.get(what, what)}"
        case (Family.SOUND.value, _):
            return "Other sounds"
        case (
            Family.LIGHT.value,
            (
                lamp,
                setting,
            ),
        ):
            return f"{lamp} {setting}"
        case family, steps:
            return " ".join([family, *steps])


def thing_said(path: str, rewards: Iterable[Reward] = ()) -> str:
    """Returns what a property belongs to, for a list of effects: *the scene*, *Tint on Bench cam*, *signal*."""
    match read_path(path):
        case (Family.BROADCAST.value, ("scene",)):
            return "the scene"
        case (
            Family.BROADCAST.value,
            (
                "source",
                _,
                source,
                *_,
            ),
        ):
            return source
        case (
            Family.BROADCAST.value,
            (
                "filter",
                source,
                name,
                *_,
            ),
        ):
            return f"{name} on {source}"
        case (
            Family.LIGHT.value,
            (
                lamp,
                *_,
            ),
        ):
            return lamp
        case (
            Family.REWARD.value,
            (
                reward,
                *_,
            ),
        ):
            return _title(reward, rewards)
        case (Family.SOUND.value, _):
            return "other sounds"
    return property_said(path, rewards)


def value_said(value: PropertyValue) -> str:
    """Returns the value of a property: *on*, *0.35*, *Yard cam*."""
    if value is None:
        return "unknown"
    if isinstance(value, bool):
        return "on" if value else "off"
    return f"{round(value, 3):.15g}" if isinstance(value, int | float) else str(value)


def _title(reward: str, rewards: Iterable[Reward]) -> str:
    return next((one.title for one in rewards if one.id == reward), reward)
