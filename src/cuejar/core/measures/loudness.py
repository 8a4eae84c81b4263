"""Loudness levelling: the gain that makes all sounds equally loud.

The house has a target (−16 LUFS, as EBU R 128 measures it). A file is levelled by one gain, measured once; a positive
gain stops where the true peak would pass −1 dBTP.

    a whistle of −9 LUFS, peak −0.2 dBTP      −7 dB
    a murmur of −30 LUFS, peak −12 dBTP       +11 dB, not +14: the peak stops it
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

CEILING_DBTP = -1.0
GLIDES_S = (1.0, 0.3, 0.1, 0.0)
"""Possible durations of a glide between gains: the first without excessive loudness is used."""
QUIETEST_LUFS = -60.0

_PHASE_0 = (
    0.0017089843750, 0.0109863281250, -0.0196533203125, 0.0332031250000, -0.0594482421875, 0.1373291015625,
    0.9721679687500, -0.1022949218750, 0.0476074218750, -0.0266113281250, 0.0148925781250, -0.0083007812500,
)  # fmt: skip
_PHASE_1 = (
    -0.0291748046875, 0.0292968750000, -0.0517578125000, 0.0891113281250, -0.1665039062500, 0.4650878906250,
    0.7797851562500, -0.2003173828125, 0.1015625000000, -0.0582275390625, 0.0330810546875, -0.0189208984375,
)  # fmt: skip
_PHASES = np.ascontiguousarray(np.array([_PHASE_0, _PHASE_1, _PHASE_1[::-1], _PHASE_0[::-1]], np.float32).T)
"""ITU-R BS.1770-4, annex 2: the filter that quadruples the rate, shape (taps, phases)."""
TAPS = len(_PHASES)
MOST_GAIN = float(np.abs(_PHASES).sum(axis=0).max())
"""The maximum factor by which the sound between samples exceeds the highest of them."""
PIECE = 512
"""The number of samples checked together: a piece that can't exceed the peak so far isn't computed."""
FEW = 4
"""If more than one in this many pieces must be computed, all are, in one step."""


class TruePeak:
    """The true peak of a sound that arrives piece by piece, including between samples (ITU-R BS.1770-4, annex 2)."""

    def __init__(self) -> None:
        self.peak = 0.0
        """The highest so far, 1 is full scale."""
        self._before: npt.NDArray[np.float32] | None = None

    def hear(self, samples: npt.NDArray[np.float32]) -> None:
        """Takes the next samples, shape (channels, n)."""
        if samples.shape[1] == 0:
            return
        before = self._before
        if before is None or len(before) != len(samples):
            before = np.zeros((len(samples), TAPS - 1), np.float32)
        whole = np.concatenate([before, samples], axis=1)
        self._before = whole[:, 1 - TAPS :].copy()
        loud = np.maximum.reduceat(np.abs(whole).max(axis=0), np.arange(0, whole.shape[1], PIECE))
        self.peak = max(self.peak, float(loud.max()))
        # A piece includes the beginning of the next one, as far as the filter reaches.
        reach = np.maximum(loud, np.append(loud[1:], 0)) * MOST_GAIN
        loudest = int(reach.argmax())
        self._between(whole[:, loudest * PIECE : (loudest + 1) * PIECE + TAPS - 1])
        left = np.flatnonzero(reach > self.peak)
        if len(left) * FEW > len(reach):
            self._between(whole)
            return
        for piece in left:
            if reach[piece] > self.peak:
                self._between(whole[:, piece * PIECE : (piece + 1) * PIECE + TAPS - 1])

    def _between(self, samples: npt.NDArray[np.float32]) -> None:
        if samples.shape[1] >= TAPS:
            between = np.lib.stride_tricks.sliding_window_view(samples, TAPS, axis=1) @ _PHASES
            self.peak = max(self.peak, float(np.abs(between).max()))

    def end(self) -> float:
        """Returns the peak of all of it, including the ringing after the last sample."""
        if self._before is not None:
            self.hear(np.zeros((len(self._before), TAPS - 1), np.float32))
        return self.peak


def louder(percent: float | None, db: float) -> float:
    """Returns a volume in percent (None: 100) raised by that many decibels of amplitude: 6 dB less is about half. At
    most 100.
    """
    return round(min(100.0, (100 if percent is None else percent) * 10 ** (db / 20)), 2)


def gain_db(lufs: float | None, peak_dbtp: float | None, target_lufs: float | None) -> float:
    """Returns the gain in dB for a sound of a measured loudness (LUFS) and true peak (dBTP); 0 if nothing is to be
    levelled.

    Anything quieter than −60 LUFS counts as silence and stays unchanged.
    """
    if lufs is None or target_lufs is None or lufs < QUIETEST_LUFS:
        return 0.0
    gain = target_lufs - lufs
    if peak_dbtp is not None and gain > 0:
        gain = max(0.0, min(gain, CEILING_DBTP - peak_dbtp))
    return round(gain, 2)


def glide(
    samples: npt.NDArray[np.float32], rate: int, begun: int, from_db: float, to_db: float
) -> npt.NDArray[np.float32]:
    """Returns the samples with one gain up to ``begun`` and, gliding from there, another; shape (n,) in and out.

    It glides faster if a sample on the way would be louder than the ceiling and than the loudest with ``to_db``.
    """
    most = max(10 ** (CEILING_DBTP / 20), float(np.abs(samples[begun:]).max(initial=0)) * 10 ** (to_db / 20))
    out: npt.NDArray[np.float32] = samples * np.float32(10 ** (to_db / 20))
    out[:begun] = samples[:begun] * np.float32(10 ** (from_db / 20))
    for over_s in GLIDES_S:
        way = samples[begun : begun + round(over_s * rate)]
        share = np.arange(len(way), dtype=np.float32) / max(1.0, over_s * rate)
        gone = way * np.power(np.float32(10), (from_db + (to_db - from_db) * share) / np.float32(20))
        if np.abs(gone).max(initial=0) <= most:
            out[begun : begun + len(way)] = gone
            return out
    return out
