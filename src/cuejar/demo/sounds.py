"""The sounds of Tinwhistle Halt, made from sums of sines and seeded noise. Mono, 48 kHz, float from -1 to 1."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

RATE = 48_000
Wave = NDArray[np.float64]


def _time(seconds: float) -> Wave:
    return np.asarray(np.arange(int(seconds * RATE)) / RATE)


def _envelope(t: Wave, rise: float, fall: float) -> Wave:
    return np.asarray(np.minimum(1, t / rise) * np.minimum(1, (t[-1] - t) / fall))


def _level(wave: Wave, peak: float = 0.7) -> Wave:
    return np.asarray(wave / np.abs(wave).max() * peak)


def whistle() -> Wave:
    """Returns a three-chime steam whistle: three pipes that slide up into tune, with steam behind them. 2.4 s."""
    t = _time(2.4)
    noise = np.random.default_rng(11).normal(size=t.size)
    slide = 1 - 0.06 * np.exp(-t * 9)
    wave = np.zeros_like(t)
    for pitch, level in ((466.2, 1.0), (554.4, 0.8), (698.5, 0.7)):
        phase = 2 * np.pi * np.cumsum(pitch * slide * (1 + 0.004 * np.sin(2 * np.pi * 5.5 * t))) / RATE
        wave += level * (np.sin(phase) + 0.35 * np.sin(2 * phase) + 0.12 * np.sin(3 * phase))
    steam = np.convolve(noise, np.ones(6) / 6, "same")
    gap = 1 - 0.95 * np.exp(-(((t - 0.62) / 0.07) ** 2))
    return _level((wave + 0.5 * steam) * _envelope(t, 0.05, 0.35) * gap)


def bell(seconds: float = 2.0, strokes: int = 1, pitch: float = 880) -> Wave:
    """Returns a platform bell with its inharmonic partials, struck ``strokes`` times."""
    t = _time(seconds)
    wave = np.zeros_like(t)
    for stroke in range(strokes):
        late = t - stroke * (seconds / (strokes + 0.8))
        ring = np.where(late > 0, np.exp(-np.maximum(late, 0) * 3.2), 0)
        for ratio, level in ((1, 1), (2.0, 0.6), (2.76, 0.45), (5.4, 0.25), (8.9, 0.1)):
            wave += ring * level * np.sin(2 * np.pi * pitch * ratio * late) * np.exp(-np.maximum(late, 0) * ratio * 0.7)
    return _level(wave * _envelope(t, 0.002, 0.1), 0.6)


def fanfare() -> Wave:
    """Returns four brass notes for three alike. 2.0 s."""
    wave = np.zeros(int(2.0 * RATE))
    for start, length, pitch in ((0, 0.2, 392), (0.2, 0.2, 523.3), (0.4, 0.2, 659.3), (0.6, 1.3, 784)):
        t = _time(length)
        note = sum(np.sin(2 * np.pi * pitch * n * t) / n**1.1 for n in range(1, 8))
        at = int(start * RATE)
        wave[at : at + t.size] += np.asarray(note) * _envelope(t, 0.02, min(0.25, length / 2))
    return _level(wave)


def rumble() -> Wave:
    """Returns the express on its rails: low noise and the beat of the joints. 4.0 s."""
    t = _time(4.0)
    noise = np.random.default_rng(7).normal(size=t.size)
    low = np.convolve(noise, np.hanning(900) / 450, "same")
    joints = np.zeros_like(t)
    for at in np.arange(0.2, 3.9, 0.42):
        for shift in (0, 0.11):
            late = t - at - shift
            joints += np.where(late > 0, np.exp(-np.maximum(late, 0) * 40) * np.sin(2 * np.pi * 95 * late), 0)
    return _level((low * 1.6 + joints) * _envelope(t, 0.6, 0.9))


SOUNDS = {
    "steam-whistle": whistle,
    "platform-bell": lambda: bell(2.2, 1),
    "crossing-bell": lambda: bell(4.0, 8, 1046),
    "fanfare": fanfare,
    "express-rumble": rumble,
}
