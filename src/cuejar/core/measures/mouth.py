"""The mouth: which mouth picture shows at each moment of a sound.

The level (RMS in dB, 30 frames a second) opens the mouth above one threshold and closes it below a lower one; each
state lasts at least 80 ms. With more than two pictures the range between the closing threshold and the loudest is
divided evenly.

    quiet ……… "Mind" ……… "the gap"          closed, open, closed, open, closed
"""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

FRAMES_S = 30
LEAST_MS = 80
OPENS_DB, CLOSES_DB = -24.0, -30.0
"""Below the loudest frame: where the mouth opens, and where it closes again."""
SILENCE_DB = -60.0


def levels(samples: npt.NDArray[np.floating], rate: int) -> npt.NDArray[np.floating]:
    """Returns the RMS level of each frame in dB of full scale, shape (frames,); samples from −1 to 1, shape (n,)."""
    step = rate / FRAMES_S
    count = max(1, math.ceil(len(samples) / step))
    edges = np.minimum(np.rint(np.arange(count + 1) * step).astype(int), len(samples))
    sums = np.concatenate([[0.0], np.cumsum(np.square(samples, dtype=np.float64))])
    power = np.diff(sums[edges]) / np.maximum(np.diff(edges), 1)
    out: npt.NDArray[np.floating] = 10 * np.log10(np.maximum(power, 1e-10))
    return out


def openings(level_db: npt.NDArray[np.floating], pictures: int = 2) -> list[tuple[int, int]]:
    """Returns when the mouth changes: (ms, picture), picture 0 being closed; begins with what shows at 0.

    Args:
        level_db: one level per frame, from `levels`.
        pictures: how many mouth pictures there are, from closed to widest.
    """
    if pictures < 2 or len(level_db) == 0:
        return [(0, 0)]
    loudest = float(np.max(level_db))
    if loudest < SILENCE_DB:
        return [(0, 0)]
    opens, closes = loudest + OPENS_DB, loudest + CLOSES_DB
    span = (loudest - closes) / (pictures - 1)
    state, since = 0, -LEAST_MS
    changes: list[tuple[int, int]] = [(0, 0)]
    for frame, level in enumerate(level_db):
        at = round(frame * 1000 / FRAMES_S)
        is_open = level >= opens if state == 0 else level >= closes
        wanted = min(pictures - 1, 1 + int((level - closes) / span * 0.999)) if is_open else 0
        if wanted == state or at - since < LEAST_MS:
            continue
        if state > 0 and wanted > 0 and pictures == 2:
            continue
        state, since = wanted, at
        if changes[-1][0] == at:
            changes[-1] = (at, state)
        else:
            changes.append((at, state))
    return changes
