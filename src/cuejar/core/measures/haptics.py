"""What is felt: patterns of cells over time, several at once, and the limits that no cue can pass.

The vest has 2 x 20 cells: 0 to 19 in front, 20 to 39 behind, each four across and five down. Several patterns at once take
the highest level of each cell. The house limits the level, and how long something may be felt without a pause.

    time_ms,cell,level       a pattern as CSV: cell 3 rises from 0 to 0.8 in 200 ms
    0,3,0
    200,3,0.8
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

import numpy as np
import numpy.typing as npt

from cuejar.core.parts.gear import Frame, HapticPattern

CELLS = 40
HEAD = ["time_ms", "cell", "level"]
Levels = npt.NDArray[np.floating]
"""The level of every cell, 0 to 1, shape (40,)."""


def levels_at(pattern: HapticPattern, t_s: float) -> Levels:
    """The levels of a pattern ``t_s`` after it began; nothing before, between its end and later."""
    none: Levels = np.zeros(CELLS)
    frames = pattern.frames
    if not frames or t_s < frames[0].at_s or t_s >= pattern.length_s:
        return none
    i = max(n for n, frame in enumerate(frames) if frame.at_s <= t_s)
    here = _levels(frames[i])
    if i + 1 == len(frames) or frames[i].curve == "step":
        return here
    span = frames[i + 1].at_s - frames[i].at_s
    part = (t_s - frames[i].at_s) / span if span > 0 else 1.0
    if frames[i].curve == "smooth":
        part = part * part * (3 - 2 * part)
    out: Levels = here + (_levels(frames[i + 1]) - here) * part
    return out


def _levels(frame: Frame) -> Levels:
    out: Levels = np.zeros(CELLS)
    for cell, level in frame.cells.items():
        out[cell] = level
    return out


def merged(all_levels: Iterable[Levels]) -> Levels:
    """Several at once: the highest level of each cell."""
    out: Levels = np.zeros(CELLS)
    for levels in all_levels:
        out = np.maximum(out, levels)
    return out


class Limit:
    """The limits on what reaches the skin. Levels are cut at ``level``; what was felt for ``most_ms`` without a pause of
    ``pause_ms`` is silent until such a pause has been."""

    def __init__(self, level: float, most_ms: int, pause_ms: int) -> None:
        self.level, self.most_ms, self.pause_ms = level, most_ms, pause_ms
        self._felt_from: int | None = None
        self._quiet_from: int | None = None
        """The first silent moment since something was felt: what is felt goes on until the next call."""
        self._silent_until = 0

    def passed(self, levels: Levels, now: int) -> Levels:
        """What may be felt of ``levels`` from ``now`` (ms, rising from call to call) until the next call."""
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
        return np.zeros(CELLS)


def from_csv(text: str, pattern_id: str, name: str) -> HapticPattern:
    """A pattern from ``time_ms,cell,level``; a time that does not name a cell leaves it as it was.

    Raises:
        ValueError: a row cannot be read, with its line.
    """
    rows = list(csv.reader(io.StringIO(text.lstrip("\ufeff"))))
    if not rows or [cell.strip().casefold() for cell in rows[0]] != HEAD:
        raise ValueError(f"the first line must be {','.join(HEAD)}")
    by_time: dict[int, dict[int, float]] = {}
    for number, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        try:
            time_ms, cell, level = round(float(row[0])), int(row[1]), float(row[2])
        except (ValueError, IndexError):
            raise ValueError(f"line {number}: “{','.join(row)}” is not time, cell and level") from None
        if not (0 <= time_ms <= 600_000 and 0 <= cell < CELLS and 0 <= level <= 1):
            raise ValueError(f"line {number}: times are 0 to 600,000 ms, cells 0 to {CELLS - 1}, levels 0 to 1")
        by_time.setdefault(time_ms, {})[cell] = level
    if not by_time:
        raise ValueError("there is no row with a level")
    frames, now = [], dict[int, float]()
    for time_ms in sorted(by_time):
        now = {**now, **by_time[time_ms]}
        cells = {cell: level for cell, level in sorted(now.items()) if level > 0}
        frames.append(Frame(at_s=time_ms / 1000, cells=cells))
    return HapticPattern(id=pattern_id, name=name, length_s=max(0.05, max(by_time) / 1000), frames=frames)


def to_csv(pattern: HapticPattern) -> str:
    """The pattern as CSV: every cell that is named in it, at every frame's time."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(HEAD)
    cells = sorted({cell for frame in pattern.frames for cell in frame.cells})
    for frame in pattern.frames:
        for cell in cells:
            writer.writerow([round(frame.at_s * 1000), cell, f"{frame.cells.get(cell, 0):g}"])
    if pattern.frames and pattern.frames[-1].at_s < pattern.length_s:
        for cell in cells:
            last = pattern.frames[-1].cells.get(cell, 0) if pattern.frames[-1].curve != "step" else 0
            writer.writerow([round(pattern.length_s * 1000), cell, f"{last:g}"])
    return out.getvalue()


def found(patterns: Sequence[HapticPattern], name: str) -> HapticPattern | None:
    """The pattern of this id or name; case does not matter."""
    by_id = next((p for p in patterns if p.id == name), None)
    return by_id or next((p for p in patterns if p.name.casefold().strip() == name.casefold().strip()), None)
