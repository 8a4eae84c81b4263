"""Flash safety: whether something visible flashes too much (RULES 10).

A flash is a pair of opposing changes of relative luminance of a tenth of the maximum or more, where the darker of the
two is below 0.80. No more than three are allowed in any one second. (The general flash of WCAG 2.x, success criterion
2.3.1.)

    0.1 0.9 0.1 0.9 0.1 0.9 0.1 in one second     six changes, three flashes: allowed
    … and once more to 0.9 within that second      more than three: not allowed

A picture is divided into a grid of cells. It breaks the rule where at least a quarter of the cells (the area that the
standard allows, taken of the picture itself, as it may fill the overlay) flash too often in the same second.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

CHANGE = 0.1
DARKER_BELOW = 0.80
MOST_FLASHES = 3
AREA = 0.25
WINDOW_S = 1.0


class Flashing(NamedTuple):
    """A stretch that flashes too often, in s from the beginning; ``flashes`` is the most in any one second of it."""

    from_s: float
    to_s: float
    flashes: float


def relative_luminance(rgb: npt.NDArray[np.floating]) -> npt.NDArray[np.floating]:
    """Returns the relative luminance (0 to 1) of sRGB values from 0 to 1, shape (…, 3) (WCAG 2.x, definition of the
    same name).
    """
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    out: npt.NDArray[np.floating] = linear @ np.array([0.2126, 0.7152, 0.0722])
    return out


_LINEAR = relative_luminance(np.repeat(np.arange(256, dtype=np.float64)[:, None] / 255, 3, axis=1)).astype(np.float32)
"""The light of each byte value."""


def luminance_of(rgb: npt.NDArray[np.uint8]) -> npt.NDArray[np.floating]:
    """Returns the relative luminance (0 to 1) of sRGB bytes, shape (…, 3); as `relative_luminance`, for large arrays."""
    red, green, blue = (_LINEAR[rgb[..., channel]] for channel in range(3))
    out: npt.NDArray[np.floating] = 0.2126 * red + 0.7152 * green + 0.0722 * blue
    return out


def changes(luminance: npt.NDArray[np.floating]) -> npt.NDArray[np.bool_]:
    """Returns where each cell completes a change that can be half of a flash.

    Args:
        luminance: relative luminance, shape (frames, cells).

    Returns:
        Shape (frames, cells): true in the frame in which a change against the direction of the one before reached a
        tenth of the maximum, the darker end being below 0.80.
    """
    found = np.zeros(luminance.shape, bool)
    if len(luminance) == 0:
        return found
    low = high = luminance[0]
    way = np.zeros(luminance.shape[1], np.int8)
    for number, now in enumerate(luminance):
        rises = (way <= 0) & (now - low >= CHANGE) & (low < DARKER_BELOW)
        falls = (way >= 0) & (high - now >= CHANGE) & (now < DARKER_BELOW)
        found[number] = rises | falls
        way = np.where(rises, 1, np.where(falls, -1, way)).astype(np.int8)
        # Cells that turned start again from here; the others remember their extremes.
        turned = rises | falls
        low = np.where(turned, now, np.minimum(low, now))
        high = np.where(turned, now, np.maximum(high, now))
    return found


def flashing(times_s: npt.NDArray[np.floating], luminance: npt.NDArray[np.floating]) -> list[Flashing]:
    """Returns the stretches in which something visible flashes too often.

    Args:
        times_s: when each frame comes up, rising, shape (frames,).
        luminance: relative luminance of each cell, shape (frames, cells).
    """
    found = changes(luminance)
    if not found.any():
        return []
    so_far = np.vstack([np.zeros((1, found.shape[1]), int), np.cumsum(found, axis=0)])
    first = np.searchsorted(times_s, times_s - WINDOW_S, side="right")
    within = so_far[1:] - so_far[first]
    cells = max(1, int(np.ceil(found.shape[1] * AREA)))
    # The count that at least a quarter of the cells reach in the second ending with each frame.
    reached = np.sort(within, axis=1)[:, -cells]
    over = reached > 2 * MOST_FLASHES
    out: list[Flashing] = []
    for number in np.flatnonzero(over):
        begin, end, count = float(times_s[first[number]]), float(times_s[number]), float(reached[number]) / 2
        if out and begin <= out[-1].to_s:
            out[-1] = Flashing(out[-1].from_s, end, max(out[-1].flashes, count))
        else:
            out.append(Flashing(begin, end, count))
    return out


class Guard:
    """Keeps lamps from flashing too much, whatever runs together: each by itself, and all in sum.

    It checks every frame before it goes out. A change that would be one too many within a second is held back: the
    light only goes as far as doesn't count as a change, and further as soon as the second allows it. Slower changes
    pass unaltered, so that fades and looks are stretched, not cut.
    """

    def __init__(self, lamps: int) -> None:
        self._shown: npt.NDArray[np.floating] = np.zeros((lamps, 3))
        self._swings = _Swings(lamps + 1)

    def passed(self, light: npt.NDArray[np.floating], now_s: float) -> npt.NDArray[np.floating]:
        """Returns what may be shown of a frame.

        Args:
            light: linear red, green and blue of every lamp, 0 to 1, shape (lamps, 3).
            now_s: when it would be shown, rising from frame to frame.
        """
        low, high = self._swings.bounds(now_s)
        weights = np.array([0.2126, 0.7152, 0.0722])
        before, after = self._shown @ weights, light @ weights
        part = _part(before, after, low[:-1], high[:-1])
        out: npt.NDArray[np.floating] = self._shown + (light - self._shown) * part[:, None]
        # All lamps together, as the light in the room.
        whole = _part(before.mean(keepdims=True), (out @ weights).mean(keepdims=True), low[-1:], high[-1:])
        out = self._shown + (out - self._shown) * whole[0]
        self._shown = out
        shown = out @ weights
        self._swings.see(np.append(shown, shown.mean()), now_s)
        return out


class _Swings:
    """The changes so far (as `changes` counts them), and how far the next frame may go without one too many."""

    def __init__(self, cells: int) -> None:
        self.low = np.zeros(cells)
        self.high = np.zeros(cells)
        self.way = np.zeros(cells, np.int8)
        self.when = np.full((cells, 2 * MOST_FLASHES), -np.inf)
        """The instants of each cell's last changes, oldest first."""

    def bounds(self, now_s: float) -> tuple[npt.NDArray[np.floating], npt.NDArray[np.floating]]:
        """Returns the lowest and highest luminance that the next frame may have, for each cell."""
        used_up = now_s - self.when[:, 0] < WINDOW_S + _SPARE_S
        floor = np.minimum(self.high - CHANGE + _SPARE, DARKER_BELOW + _SPARE)
        low = np.where(used_up & (self.way >= 0), floor, -1.0)
        may_not_rise = used_up & (self.way <= 0) & (self.low < DARKER_BELOW)
        return low, np.where(may_not_rise, self.low + CHANGE - _SPARE, 2.0)

    def see(self, now: npt.NDArray[np.floating], now_s: float) -> None:
        rises = (self.way <= 0) & (now - self.low >= CHANGE) & (self.low < DARKER_BELOW)
        falls = (self.way >= 0) & (self.high - now >= CHANGE) & (now < DARKER_BELOW)
        turned = rises | falls
        # A change counts from its peak: an observer who starts in the middle of it sees it no later than that.
        further = ((self.way > 0) & (now > self.high)) | ((self.way < 0) & (now < self.low))
        self.when[further, -1] = now_s
        self.when[turned] = np.roll(self.when[turned], -1, axis=1)
        self.when[turned, -1] = now_s
        self.way = np.where(rises, 1, np.where(falls, -1, self.way)).astype(np.int8)
        self.low = np.where(turned, now, np.minimum(self.low, now))
        self.high = np.where(turned, now, np.maximum(self.high, now))


_SPARE, _SPARE_S = 0.006, 0.03
"""Margins for channels being whole numbers, and for frames that come slightly late."""


def _part(
    before: npt.NDArray[np.floating], after: npt.NDArray[np.floating], low: npt.NDArray[np.floating],
    high: npt.NDArray[np.floating],
) -> npt.NDArray[np.floating]:  # fmt: skip
    """Returns how much (0 to 1) of the way from ``before`` to ``after`` stays within the bounds."""
    wanted = np.clip(after, np.minimum(low, before), np.maximum(high, before))
    way = after - before
    out: npt.NDArray[np.floating] = np.where(np.abs(way) < 1e-9, 1.0, (wanted - before) / np.where(way == 0, 1, way))
    clipped: npt.NDArray[np.floating] = np.clip(out, 0, 1)
    return clipped
