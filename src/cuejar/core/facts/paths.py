"""Paths of properties: ``broadcast/filter/Bench cam/Fog/amount``.

The first step is the family, which knows what a property rests at that nobody has reported, and how holds of it
combine. The others name it. A name may contain anything: ``/`` and ``%`` are written ``%2F`` and ``%25``, so a path is
taken apart where it was put together:

    Path("broadcast", ("filter", "Bench/cam", "Fog", "amount"))  ↔  broadcast/filter/Bench%2Fcam/Fog/amount

Everything that stores or sends paths has them in the written form; only this module reads and writes it.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from enum import Enum
from functools import lru_cache
from math import prod
from typing import Literal, NamedTuple

from cuejar.core.facts.happenings import PropertyValue

Combining = Literal["covers", "multiplies", "highest"]
_CACHED = 8_192


class Family(Enum):
    """What a property belongs to."""

    BROADCAST = "broadcast"
    LIGHT = "light"
    AVATAR = "avatar"
    VOICE = "voice"
    HAPTICS = "haptics"
    THINGS = "things"
    KEYS = "keys"
    HOOK = "hook"
    REWARD = "reward"
    SOUND = "sound"

    @property
    def combining(self) -> Combining:
        """How holds of one property combine: the top one covers the others, or all of them count."""
        return _COMBINING.get(self, "covers")

    def rest(self, steps: tuple[str, ...]) -> PropertyValue:
        """Returns what a property rests at that nobody has reported; None if only its gear knows."""
        at, named, value = _RESTS.get(self, (0, "", None))
        return value if not named or steps[at : at + 1] == (named,) else None


_COMBINING: dict[Family, Combining] = {Family.SOUND: "multiplies", Family.HAPTICS: "highest"}
_RESTS: dict[Family, tuple[int, str, PropertyValue]] = {
    Family.SOUND: (0, "", 1),
    Family.HAPTICS: (0, "", 0),
    Family.KEYS: (0, "", "off"),
    Family.AVATAR: (0, "expression", "off"),
    Family.LIGHT: (1, "look", "steady"),
}
"""By the name of a step at this place; an empty name: all of the family."""


class Path(NamedTuple):
    """``family`` is the written first step: a `Family`'s, or that of an unknown plug-in."""

    family: str
    steps: tuple[str, ...] = ()

    @property
    def known(self) -> Family | None:
        return _FAMILIES.get(self.family)

    def __str__(self) -> str:
        return "/".join([self.family, *map(_written, self.steps)])


_FAMILIES = {family.value: family for family in Family}


def _written(step: str) -> str:
    return step.replace("%", "%25").replace("/", "%2F")


def _read(step: str) -> str:
    return re.sub("%(2F|25)", lambda sign: "/" if sign[1] == "2F" else "%", step) if "%" in step else step


@lru_cache(maxsize=_CACHED)
def read_path(path: str) -> Path:
    """Returns the steps of a written path."""
    family, *steps = path.split("/")
    return Path(family, tuple(map(_read, steps)))


@lru_cache(maxsize=_CACHED)
def path_of(family: Family, *steps: str) -> str:
    """Returns a path as it is written."""
    return str(Path(family.value, steps))


def within(family: Family, *steps: str) -> str:
    """Returns how all paths begin that lie there."""
    return f"{path_of(family, *steps)}/"


def canonical_path(path: str) -> str:
    """Returns a path from outside as this module would have written it."""
    return str(read_path(path))


@lru_cache(maxsize=_CACHED)
def _combining(path: str) -> Combining:
    family = read_path(path).known
    return family.combining if family is not None else "covers"


def combined(path: str, rest: PropertyValue, values: Sequence[PropertyValue]) -> PropertyValue:
    """Returns what a property shows that rests at ``rest`` and is held at ``values``, the top one last."""
    if not values:
        return rest
    how = _combining(path)
    if how == "covers":
        return values[-1]
    numbers = [value for value in values if isinstance(value, (int, float))]
    if how == "multiplies":
        return round((rest if isinstance(rest, (int, float)) else 1) * prod(numbers), 6)
    return max([rest if isinstance(rest, (int, float)) else 0, *numbers])


def rest_untold(path: str) -> PropertyValue:
    """Returns what a property rests at that nobody has reported."""
    whole = read_path(path)
    return whole.known.rest(whole.steps) if whole.known is not None else None


SCENE = path_of(Family.BROADCAST, "scene")
OTHERS = path_of(Family.SOUND, "others")
"""How loud other sounds are while a beat ducks them."""
FILTERS, SOURCES = within(Family.BROADCAST, "filter"), within(Family.BROADCAST, "source")


def source_path(scene: str, source: str) -> str:
    return path_of(Family.BROADCAST, "source", scene, source, "visible")


def filter_path(source: str, name: str, setting: str) -> str:
    return path_of(Family.BROADCAST, "filter", source, name, setting)


def lamp_path(lamp: str, what: str) -> str:
    return path_of(Family.LIGHT, lamp, what)


def reward_path(reward: str, what: str) -> str:
    return path_of(Family.REWARD, reward, what)


def keys_path(combo: str) -> str:
    return path_of(Family.KEYS, combo)


def thing_path(gear: str, thing: str, setting: str) -> str:
    return path_of(Family.THINGS, gear, thing, setting)


PAUSED = "paused"


def is_pause(path: str) -> bool:
    """Returns whether a property says that a reward is paused on the channel."""
    whole = read_path(path)
    return whole.known is Family.REWARD and whole.steps[-1] == PAUSED
