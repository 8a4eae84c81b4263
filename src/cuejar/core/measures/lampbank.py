"""A bank of lamps as they fade and move, all in one numpy step; steady lamps cost nothing.

Colours fade through OKLab, levels in a straight line. Motions are those of `lamps.share`.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from cuejar.core.measures.lamps import LOOKS, Light, Motion
from cuejar.core.measures.oklab import Numbers, from_oklab, oklab, srgb_of
from cuejar.core.parts.gear import Fixture


class LampBank:
    """Lamps by index (from 0). Times are s of any clock that never goes back."""

    def __init__(self, fixtures: Sequence[Fixture], colour: str, level: float) -> None:
        count = len(fixtures)
        self._gamma = np.array([fixture.gamma for fixture in fixtures]).reshape(count, 1)
        self._srgb = np.tile(srgb_of(colour), (count, 1))
        """The colours at the end of their fades."""
        self._lab = np.tile(oklab(srgb_of(colour)), (count, 2, 1))
        """The start and the end of each lamp's fade."""
        self._level = np.full((count, 2), level)
        self._begun, self._span = np.zeros((2, count)), np.full((2, count), 1e-9)
        """When the fades of colours and of levels began, and how long they take."""
        self._motion = [Motion()] * count
        self._turns: dict[tuple[str, float, int], float] = {}
        self._moves = np.zeros(count, bool)
        self._how = np.zeros((4, count))
        """For each moving lamp: its motion, its period, its place, and the size of its group."""
        self._turn_begun = np.zeros(count)
        self._fades_until = -np.inf
        self._still: Light | None = None

    def is_moving(self, now_s: float) -> bool:
        return bool(self._moves.any()) or now_s < self._fades_until

    def colour(self, lamp: int, colour: str, now_s: float, span_s: float = 0) -> None:
        """Fades the lamp to a ``#rrggbb``, from what it shows now."""
        part = self._part(0, now_s)[lamp]
        self._lab[lamp, 0] += (self._lab[lamp, 1] - self._lab[lamp, 0]) * part
        self._srgb[lamp] = srgb_of(colour)
        self._lab[lamp, 1] = oklab(self._srgb[lamp])
        self._fade(0, lamp, now_s, span_s)

    def level(self, lamp: int, level: float, now_s: float, span_s: float = 0) -> None:
        part = self._part(1, now_s)[lamp]
        self._level[lamp, 0] += (self._level[lamp, 1] - self._level[lamp, 0]) * part
        self._level[lamp, 1] = level
        self._fade(1, lamp, now_s, span_s)

    def motion(self, lamp: int, motion: Motion, now_s: float) -> None:
        """Sets how the lamp's light moves from now on; those of one kind and period move together."""
        self._motion[lamp] = motion
        going = {(one.name, one.period_s, one.lamps) for one in self._motion if one.name != "steady"}
        self._turns = {key: self._turns.get(key, now_s) for key in going}
        self._moves[lamp] = motion.name != "steady"
        self._how[:, lamp] = LOOKS.index(motion.name), motion.period_s, motion.place, motion.lamps
        self._turn_begun[lamp] = self._turns.get((motion.name, motion.period_s, motion.lamps), now_s)
        self._still = None

    def _fade(self, which: int, lamp: int, now_s: float, span_s: float) -> None:
        way = (self._lab, self._level)[which]
        if span_s <= 0:
            way[lamp, 0] = way[lamp, 1]
        self._begun[which, lamp], self._span[which, lamp] = now_s, max(span_s, 1e-9)
        self._fades_until = max(self._fades_until, now_s + span_s)
        self._still = None

    def _part(self, which: int, now_s: float) -> Numbers:
        out: Numbers = np.clip((now_s - self._begun[which]) / self._span[which], 0, 1)
        return out

    def light(self, now_s: float) -> Light:
        """Returns linear red, green and blue of every lamp, shape (lamps, 3)."""
        if self._still is not None:
            return self._still
        part = self._part(0, now_s)[:, None]
        srgb = self._srgb
        if now_s < self._fades_until:
            lab = self._lab[:, 0] + (self._lab[:, 1] - self._lab[:, 0]) * part
            srgb = np.where(part >= 1, self._srgb, from_oklab(lab))
        level = self._level[:, 0] + (self._level[:, 1] - self._level[:, 0]) * self._part(1, now_s)
        shared = level * self._shares(now_s) if self._moves.any() else level
        out: Light = srgb**self._gamma * shared[:, None]
        if not self.is_moving(now_s):
            self._still = out
        return out

    def _shares(self, now_s: float) -> Numbers:
        """Returns the factor of each lamp's light (`lamps.share`)."""
        what, period, place, lamps = self._how
        turn = (now_s - self._turn_begun) / np.where(period > 0, period, 1)
        behind = np.mod(turn * lamps - place, np.maximum(lamps, 1))
        chase = np.where(lamps > 1, np.maximum(0.08, 1 - np.minimum(behind, lamps - behind)), 1.0)
        angle = 2 * np.pi * turn
        flicker = 0.72 + 0.28 / 3 * sum(np.sin(angle * k + place * 1.7 * k) for k in (1.0, 2.3, 3.7))
        moved: Numbers = np.choose(what.astype(int), [np.ones(len(what)), 0.55 + 0.45 * np.cos(angle), chase, flicker])
        return moved
