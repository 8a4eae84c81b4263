"""Lamps: their channels, the channel values of a colour and a level, and how looks move.

A colour's values (sRGB, 0 to 1) are raised to the lamp's gamma, because the light of a lamp is proportional to its
channel; the level multiplies the light. A lamp with a white channel uses it for the part that red, green and blue have
in common:

    rgbw   (0.9, 0.5, 0.2)  ->  red 0.7, green 0.3, blue 0, white 0.2

A dimmer has no colour: it shows the colour's relative luminance.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from cuejar.core.measures.flash import relative_luminance
from cuejar.core.parts.gear import CHANNELS, Fixture

UNIVERSE = 512
LOOKS = ("steady", "breathe", "chase", "flicker")
Light = npt.NDArray[np.floating]
"""Linear red, green, blue (0 to 1), shape (3,) or (lamps, 3)."""


class Patch(NamedTuple):
    """Where a lamp listens: its universe and its first channel, from 1."""

    universe: int
    address: int


def patched(fixtures: Sequence[Fixture]) -> dict[str, Patch]:
    """Returns where every lamp listens. A lamp without an address takes the first free channels after the lamp before
    it; one without room in its universe is left out.
    """
    taken: dict[int, set[int]] = {}
    for fixture in fixtures:
        if fixture.address is not None:
            channels = range(fixture.address, fixture.address + CHANNELS[fixture.profile])
            taken.setdefault(fixture.universe, set()).update(channels)
    out: dict[str, Patch] = {}
    after: dict[int, int] = {}
    for fixture in fixtures:
        count, used = CHANNELS[fixture.profile], taken.setdefault(fixture.universe, set())
        if fixture.address is not None:
            first = fixture.address
        else:
            begin = after.get(fixture.universe, 1)
            places = [*range(begin, UNIVERSE + 2 - count), *range(1, begin)]
            free = next((at for at in places if not used & set(range(at, at + count))), None)
            if free is None or free + count - 1 > UNIVERSE:
                continue
            first = free
            used.update(range(first, first + count))
        after[fixture.universe] = first + count
        out[fixture.id] = Patch(fixture.universe, first)
    return out


def overlaps(fixtures: Sequence[Fixture]) -> list[tuple[str, str]]:
    """Returns pairs of lamps whose channels overlap."""
    where = patched(fixtures)
    profile = {fixture.id: CHANNELS[fixture.profile] for fixture in fixtures}
    placed = sorted(where.items(), key=lambda row: row[1])
    out = []
    for i, (one, a) in enumerate(placed):
        for other, b in placed[i + 1 :]:
            if b.universe != a.universe or b.address >= a.address + profile[one]:
                break
            out.append((one, other))
    return out


@lru_cache(maxsize=8192)
def _linear(colour: str, gamma: float) -> tuple[float, float, float]:
    r, g, b = ((int(colour[i : i + 2], 16) / 255) ** gamma for i in (1, 3, 5))
    return r, g, b


def light(colour: str, level: float, gamma: float) -> Light:
    """Returns the linear light of a ``#rrggbb`` at a level (0 to 1)."""
    out: Light = np.array(_linear(colour, gamma)) * level
    return out


def lights(rows: Sequence[tuple[str, float, float]]) -> Light:
    """Returns the linear light of many lamps, given each one's colour, gamma and factor. Shape (lamps, 3)."""
    linear = np.array([_linear(colour, gamma) for colour, gamma, _ in rows]).reshape(-1, 3)
    out: Light = linear * np.array([by for _, _, by in rows])[:, None]
    return out


def _dimmer(rgb: Light) -> Light:
    out: Light = rgb @ np.array([[0.2126], [0.7152], [0.0722]])
    return out


def _rgb(rgb: Light) -> Light:
    return rgb


def _rgbw(rgb: Light) -> Light:
    white = rgb.min(axis=1, keepdims=True)
    return np.concatenate([rgb - white, white], axis=1)


def _dimmer_rgb(rgb: Light) -> Light:
    dimmer = rgb.max(axis=1, keepdims=True)
    return np.concatenate([dimmer, np.divide(rgb, dimmer, out=np.zeros_like(rgb), where=dimmer > 0)], axis=1)


_MIXES = {"dimmer": _dimmer, "rgb": _rgb, "rgbw": _rgbw, "dimmer_rgb": _dimmer_rgb}
"""By profile the channels of lamps (0 to 1), shape (lamps, channels), for linear light, shape (lamps, 3)."""


def _bytes_of(profile: str, shining: Light) -> npt.NDArray[np.uint8]:
    out: npt.NDArray[np.uint8] = np.rint(_MIXES[profile](np.clip(shining, 0.0, 1.0)) * 255).astype(np.uint8)
    return out


def channels(fixture: Fixture, shining: Light | Sequence[float]) -> list[int]:
    """Returns the values (0 to 255) of a lamp's channels for linear red, green and blue."""
    values: list[int] = _bytes_of(fixture.profile, np.array([shining], float))[0].tolist()
    return values


class Board:
    """The channels of all lamps at once, universe by universe. A lamp without an address is left out."""

    def __init__(self, fixtures: Sequence[Fixture], where: Mapping[str, Patch]) -> None:
        self._universes = sorted({patch.universe for patch in where.values()})
        row = {universe: i for i, universe in enumerate(self._universes)}
        self._groups: list[tuple[str, list[int], npt.NDArray[np.intp], npt.NDArray[np.intp]]] = []
        for profile, count in CHANNELS.items():
            lamps = [i for i, fixture in enumerate(fixtures) if fixture.profile == profile and fixture.id in where]
            if lamps:
                places = [where[fixtures[i].id] for i in lamps]
                rows = np.array([[row[place.universe]] for place in places])
                columns = np.array([[place.address - 1] for place in places]) + np.arange(count)
                self._groups.append((profile, lamps, rows, columns))

    def frame(self, lit: Light) -> dict[int, bytes]:
        """Returns the 512 values of every universe for the light of all lamps, shape (lamps, 3)."""
        values = np.zeros((len(self._universes), UNIVERSE), np.uint8)
        for profile, lamps, rows, columns in self._groups:
            values[rows, columns] = _bytes_of(profile, lit[lamps])
        return {universe: values[i].tobytes() for i, universe in enumerate(self._universes)}


class Motion(NamedTuple):
    """How a lamp's light moves: one turn takes ``period_s``; in a chase it is lamp ``place`` (from 0) of ``lamps``."""

    name: str = "steady"
    period_s: float = 2
    place: int = 0
    lamps: int = 1

    def __str__(self) -> str:
        if self.name == "steady":
            return "steady"
        place = f", {self.place + 1} of {self.lamps}" if self.lamps > 1 else ""
        return f"{self.name} {self.period_s:g} s{place}"


@lru_cache(maxsize=4096)
def motion_from(text: str) -> Motion:
    """Returns a look from its written form, ``chase 2 s, 1 of 4``; steady if it can't be read."""
    words = text.replace(",", "").split()
    if not words or words[0] not in LOOKS:
        return Motion()
    try:
        period = float(words[1]) if len(words) > 1 else 2.0
        place, lamps = (int(words[3]) - 1, int(words[5])) if len(words) > 5 else (0, 1)
    except ValueError:
        return Motion()
    return Motion(words[0], max(0.05, period), place, max(1, lamps))


def share(look: Motion, t_s: float) -> float:
    """Returns the factor of the light, ``t_s`` into the look (0 to 1)."""
    turn = t_s / look.period_s
    if look.name == "breathe":
        return 0.55 + 0.45 * math.cos(2 * math.pi * turn)
    if look.name == "chase":
        behind = (turn * look.lamps - look.place) % look.lamps
        return max(0.08, 1 - min(behind, look.lamps - behind)) if look.lamps > 1 else 1.0
    if look.name == "flicker":
        # Three waves with incommensurable lengths, shifted from lamp to lamp: never the same twice.
        moved = look.place * 1.7
        wave = sum(math.sin(2 * math.pi * turn * k + moved * k) for k in (1.0, 2.3, 3.7)) / 3
        return 0.72 + 0.28 * wave
    return 1.0


def moving(looks: Iterable[Motion]) -> bool:
    return any(look.name != "steady" for look in looks)


def luminance(shining: Light) -> Light:
    """Returns the relative luminance of linear light, shape (…, 3)."""
    out: Light = np.asarray(shining) @ np.array([0.2126, 0.7152, 0.0722])
    return out


__all__ = [
    "Light",
    "Motion",
    "Patch",
    "channels",
    "light",
    "lights",
    "luminance",
    "motion_from",
    "moving",
    "overlaps",
    "patched",
    "relative_luminance",
    "share",
]  # fmt: skip
