"""Haptics: patterns of places on the body over time, several at once, on whichever pads there are, within limits.

A pattern consists of places, so that it fits any wearable. A place is played by every pad whose middle lies within it;
if there is none, by the nearest pad of its side; if a side has no pads, by those of the other side, through the body.
Levels stay unchanged. Patterns at the same time use the highest level of each pad. The house limits the level, and the
longest stretch without a pause.

    time_ms,side,x,y,size,level     a pattern as CSV: a place left on the chest rises from 0 to 0.8 in 200 ms
    0,front,0.36,0.22,0.1,0
    200,front,0.36,0.22,0.1,0.8
"""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterable, Sequence
from typing import Protocol

import numpy as np
import numpy.typing as npt
from pydantic import ValidationError

from cuejar.core.parts.gear import BodyPlace, Frame, HapticPattern, Side
from cuejar.core.parts.tables import table

HEAD = ["time_ms", "side", "x", "y", "size", "level"]
HEIGHT = 1.25
"""The height of a side, relative to its width."""
Levels = npt.NDArray[np.floating]
"""One level per place, or per pad; 0 to 1."""
Pairs = npt.NDArray[np.intp]
"""Places and the pads that play them, shape (n, 2)."""


class Lies(Protocol):
    """Something at a place on the body."""

    @property
    def side(self) -> Side: ...
    @property
    def x(self) -> float: ...
    @property
    def y(self) -> float: ...
    @property
    def size(self) -> float: ...


def _away(place: Lies, pad: Lies) -> float:
    """Returns the distance, in side widths; a ``place`` on the other side lies behind it."""
    x = place.x if place.side == pad.side else 1 - place.x
    return math.hypot(x - pad.x, (place.y - pad.y) * HEIGHT)


def fitted(places: Sequence[Lies], pads: Sequence[Lies]) -> list[list[int]]:
    """Returns which pads play each place, as indexes into ``pads``; none only if there are none."""
    felt: list[list[int]] = []
    for place in places:
        near = [i for i, pad in enumerate(pads) if pad.side == place.side] or list(range(len(pads)))
        within = [i for i in near if _away(place, pads[i]) <= place.size / 2]
        felt.append(within or sorted(near, key=lambda i: _away(place, pads[i]))[:1])
    return felt


def levels_at(pattern: HapticPattern, t_s: float) -> Levels:
    """Returns the level of each place of a pattern ``t_s`` after it began; zero before it and after its end."""
    none: Levels = np.zeros(len(pattern.places))
    frames = pattern.frames
    if not frames or t_s < frames[0].at_s or t_s >= pattern.length_s:
        return none
    i = max(n for n, frame in enumerate(frames) if frame.at_s <= t_s)
    here = _levels(pattern, frames[i])
    if i + 1 == len(frames) or frames[i].curve == "step":
        return here
    span = frames[i + 1].at_s - frames[i].at_s
    part = (t_s - frames[i].at_s) / span if span > 0 else 1.0
    if frames[i].curve == "smooth":
        part = part * part * (3 - 2 * part)
    out: Levels = here + (_levels(pattern, frames[i + 1]) - here) * part
    return out


def _levels(pattern: HapticPattern, frame: Frame) -> Levels:
    return np.array([frame.levels.get(place, 0.0) for place in pattern.places])


class Worn:
    """The pads of a wearable, and what patterns play there."""

    def __init__(self, pads: Sequence[Lies]) -> None:
        self.pads = tuple(pads)
        self._fits: dict[str, tuple[HapticPattern, Pairs]] = {}

    def _fit(self, pattern: HapticPattern) -> Pairs:
        known = self._fits.get(pattern.id)
        if known is None or known[0] is not pattern:
            fit = fitted(list(pattern.places.values()), self.pads)
            pairs = [(place, pad) for place, pads in enumerate(fit) for pad in pads]
            known = self._fits[pattern.id] = (pattern, np.array(pairs, dtype=np.intp).reshape(-1, 2))
        return known[1]

    def felt(self, pattern: HapticPattern, t_s: float) -> Levels:
        """Returns the level of each pad ``t_s`` after a pattern began."""
        out: Levels = np.zeros(len(self.pads))
        pairs = self._fit(pattern)
        np.maximum.at(out, pairs[:, 1], levels_at(pattern, t_s)[pairs[:, 0]])
        return out

    def merged(self, all_levels: Iterable[Levels]) -> Levels:
        """Returns several at once: the highest level of each pad."""
        out: Levels = np.zeros(len(self.pads))
        for levels in all_levels:
            out = np.maximum(out, levels)
        return out


class Limit:
    """The limits on what reaches the skin. Levels are cut at ``level``; after ``most_ms`` without a pause of
    ``pause_ms``, a pad is silent until it has had such a pause.
    """

    def __init__(self, level: float, most_ms: int, pause_ms: int) -> None:
        self.level, self.most_ms, self.pause_ms = level, most_ms, pause_ms
        self._felt_from: int | None = None
        self._quiet_from: int | None = None
        """The first silent moment since something was felt: it lasts until the next call."""
        self._silent_until = 0

    def passed(self, levels: Levels, now: int) -> Levels:
        """Returns what may be felt of ``levels`` from ``now`` (ms, rising from call to call) until the next call."""
        out: Levels = np.minimum(levels, self.level)
        if self._quiet_from is not None and now - self._quiet_from >= self.pause_ms:
            self._felt_from = self._quiet_from = None
        if now >= self._silent_until and out.any():
            if self._felt_from is None:
                self._felt_from = now
            if now - self._felt_from < self.most_ms:
                self._quiet_from = None
                return out
            self._felt_from, self._silent_until = None, now + self.pause_ms
        if self._quiet_from is None:
            self._quiet_from = now
        return np.zeros(len(levels))


MOST_MS = 600_000


def from_csv(text: str, pattern_id: str, name: str) -> HapticPattern:
    """Returns a pattern from ``time_ms,side,x,y,size,level``; a time that doesn't name a place leaves it unchanged.

    Raises:
        ValueError: a row can't be read, with its line.
    """
    try:
        rows = list(csv.reader(io.StringIO(text.lstrip("\ufeff"), newline="")))
    except csv.Error as error:
        raise ValueError(f"it isn’t a table ({error})") from error
    if not rows or [cell.strip().casefold() for cell in rows[0]] != HEAD:
        raise ValueError(f"the first line must be {','.join(HEAD)}")
    ids: dict[BodyPlace, str] = {}
    by_time: dict[int, dict[str, float]] = {}
    for number, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        try:
            time_ms, place, level = _row(row)
        except (ValueError, IndexError):
            raise ValueError(
                f"line {number}: “{','.join(row)}” is not a time of 0 to {MOST_MS:,} ms, front or back, x, y, size and level "
                "of 0 to 1"
            ) from None
        by_time.setdefault(time_ms, {})[ids.setdefault(place, f"p{len(ids) + 1}")] = level
    if not by_time:
        raise ValueError("there is no row with a level")
    frames, now = [], dict[str, float]()
    for time_ms in sorted(by_time):
        now = {**now, **by_time[time_ms]}
        levels = {place: level for place, level in now.items() if level > 0}
        frames.append(Frame(at_s=time_ms / 1000, levels=levels))
    length_s = max(0.05, max(by_time) / 1000)
    places = {place_id: place for place, place_id in ids.items()}
    try:
        return HapticPattern(id=pattern_id, name=name, length_s=length_s, places=places, frames=frames)
    except ValidationError:
        raise ValueError("it has more than 500 places, or more than 2,000 times") from None


def _row(row: Sequence[str]) -> tuple[int, BodyPlace, float]:
    """Raises ValueError or IndexError."""
    time_ms, side, level = round(float(row[0])), row[1].strip().casefold(), float(row[5])
    if not (0 <= time_ms <= MOST_MS and 0 <= level <= 1):
        raise ValueError
    size = {"size": float(row[4])} if row[4].strip() else {}
    return time_ms, BodyPlace.model_validate({"side": side, "x": float(row[2]), "y": float(row[3]), **size}), level


def to_csv(pattern: HapticPattern) -> str:
    """Returns the pattern as CSV: every place that is ever felt, at the time of every frame."""
    rows: list[list[str | float]] = []
    felt = {place for frame in pattern.frames for place in frame.levels}

    def write(at_s: float, levels: dict[str, float]) -> None:
        for key, place in pattern.places.items():
            if key in felt:
                numbers = [f"{number:g}" for number in (place.x, place.y, place.size, levels.get(key, 0))]
                rows.append([round(at_s * 1000), place.side, *numbers])

    for frame in pattern.frames:
        write(frame.at_s, frame.levels)
    if pattern.frames and pattern.frames[-1].at_s < pattern.length_s:
        last = pattern.frames[-1]
        write(pattern.length_s, {} if last.curve == "step" else last.levels)
    return table(HEAD, rows, "\n")


def found(patterns: Sequence[HapticPattern], name: str) -> HapticPattern | None:
    """Returns the pattern of this id or name; case doesn't matter."""
    by_id = next((p for p in patterns if p.id == name), None)
    return by_id or next((p for p in patterns if p.name.casefold().strip() == name.casefold().strip()), None)
