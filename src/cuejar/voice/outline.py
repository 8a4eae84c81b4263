"""Compares sounds with a saying by their outlines: how loud each band of pitch is over time, whatever the pace.

The outline of a saying is that of this speaker, so it tells a phrase from sentences with the same words better than a
model of everybody's speech, even beside other sounds: what lies far below the loudest is taken as silence. Alignment is
dynamic time warping with slopes between one half and two (Sakoe and Chiba, 1978); bands are spaced by mel (O'Shaughnessy).
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

import numpy as np
import numpy.typing as npt

RATE = 16_000
HOP = RATE // 50
"""Samples between two rows of an outline."""
WINDOW, SPECTRUM = 400, 512
BANDS, LOWEST_HZ, HIGHEST_HZ = 24, 120.0, 7_000.0
DEPTH = 15.0
"""How far below the loudest an outline reaches, in dB."""
QUIETEST, ABOVE = 30.0, 0.35
"""What is this far below the loudest, in dB, is no part of a saying at its ends; nor is what reaches less than this share
of the way from the room's noise to the loudest.
"""
SCALE = 16
"""Steps per unit in a kept outline."""
LONGER = 1.25
"""How much longer than a saying is what is compared with it."""
FAR = 1e9
MOST_ROWS = 400
"""The maximum number of rows in a kept outline."""

Samples = npt.NDArray[np.int16]
Rows = npt.NDArray[np.float64]


@cache
def _bands() -> Rows:
    """Returns the weight of each line of a spectrum in each band."""

    def mel(hz: float) -> float:
        return 2595 * float(np.log10(1 + hz / 700))

    edges = 700 * (10 ** (np.linspace(mel(LOWEST_HZ), mel(HIGHEST_HZ), BANDS + 2) / 2595) - 1)
    lines = np.fft.rfftfreq(SPECTRUM, 1 / RATE)
    low, middle, high = edges[:-2, None], edges[1:-1, None], edges[2:, None]
    return np.clip(np.minimum((lines - low) / (middle - low), (high - lines) / (high - middle)), 0, None)


def energies(samples: Samples) -> Rows:
    """Returns the energy of each band, `HOP` by `HOP`. Raises ValueError: shorter than a window."""
    sound = samples.astype(np.float64)
    sound[1:] -= 0.97 * sound[:-1]
    windows = np.lib.stride_tricks.sliding_window_view(sound, WINDOW)[::HOP] * np.hamming(WINDOW)
    return np.asarray(np.abs(np.fft.rfft(windows, SPECTRUM)) ** 2 @ _bands().T + 1e-3)


def trimmed(samples: Samples) -> Samples:
    """Returns a saying without what is silent at its ends."""
    loud = 10 * np.log10(energies(samples).sum(1))
    most, noise = loud.max(), np.percentile(loud, 10)
    (on,) = np.where(loud > max(most - QUIETEST, noise + (most - noise) * ABOVE))
    if not on.size:
        return samples
    return samples[on[0] * HOP : on[-1] * HOP + WINDOW]


def _loudness(heard: Rows) -> Rows:
    """Returns how loud each band is (natural logarithm), the loudest being 0."""
    return np.asarray(np.log(heard / np.percentile(heard.max(1), 95) + 10 ** (-DEPTH / 10)))


def _outline(bands: Rows) -> Rows:
    """Returns bands around their mean, and how they change."""
    bands = bands - bands.mean(0)
    change = np.zeros_like(bands)
    change[1:-1] = (bands[2:] - bands[:-2]) / 2
    return np.hstack([bands, change])


def kept(samples: Samples) -> list[list[int]]:
    """Returns what is kept of a saying: how loud each band is, in steps of 1/`SCALE`."""
    return [[round(value) for value in row] for row in (_loudness(energies(trimmed(samples))) * SCALE).tolist()]


class Sayings:
    """The outlines of a phrase."""

    def __init__(self, kept_outlines: Sequence[Sequence[Sequence[int]]]) -> None:
        each = [_outline(np.array(rows, np.float64) / SCALE) for rows in kept_outlines]
        self._lengths = np.array([len(one) for one in each])
        self._rows = np.zeros((len(each), int(self._lengths.max()), 2 * BANDS))
        for number, one in enumerate(each):
            self._rows[number, : len(one)] = one
        self._squares = (self._rows**2).sum(2)
        self.span = int(self._lengths.max() * LONGER) * HOP + WINDOW
        """How many samples are compared."""

    def distance(self, samples: Samples) -> float:
        """Returns how far the nearest saying is from a part of the last `span` samples: 0 for its like, about 2 for
        other speech.
        """
        if len(samples) < WINDOW + 2 * HOP:
            return FAR
        heard = _outline(_loudness(energies(samples[-self.span :])))
        costs = np.sqrt(
            np.maximum(0, self._squares[:, :, None] + (heard**2).sum(1)[None, None] - 2 * (self._rows @ heard.T))
        )
        return self._aligned(costs)

    def _aligned(self, costs: Rows) -> float:
        """Returns the least mean cost of a way through all rows of a saying, which begins and ends anywhere in what is
        heard. Costs: sayings by their rows by what is heard.
        """
        count, rows, columns = costs.shape
        one, two = np.full((count, rows), FAR), np.full((count, rows), FAR)
        before = np.full((count, rows), FAR)
        every, last = np.arange(count), self._lengths - 1
        best = np.full(count, FAR)
        for column in range(columns):
            cost = costs[:, :, column]
            now = np.empty((count, rows))
            now[:, 0] = cost[:, 0]
            way = np.minimum(one[:, :-1], two[:, :-1] + before[:, 1:] / 2)
            way[:, 1:] = np.minimum(way[:, 1:], one[:, :-2] + cost[:, 1:-1])
            now[:, 1:] = cost[:, 1:] + way
            best = np.minimum(best, now[every, last])
            one, two, before = now, one, cost
        return float((best / self._lengths).min())
