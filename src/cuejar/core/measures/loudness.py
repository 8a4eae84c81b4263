"""Loudness levelling: by how much a sound is made louder or softer so that all are heard alike.

The house has a target (−16 LUFS, as EBU R 128 measures it). A file is brought to it by one gain, measured once; a gain
upwards stops where the true peak would pass −1 dBTP.

    a whistle of −9 LUFS, peak −0.2 dBTP      −7 dB
    a murmur of −30 LUFS, peak −12 dBTP       +11 dB, not +14: the peak stops it
"""

from __future__ import annotations

CEILING_DBTP = -1.0
QUIETEST_LUFS = -60.0


def gain_db(lufs: float | None, peak_dbtp: float | None, target_lufs: float | None) -> float:
    """The gain in dB for a sound of a measured loudness (LUFS) and true peak (dBTP); 0 where nothing is to be levelled.

    What is quieter than −60 LUFS counts as silence and stays as it is.
    """
    if lufs is None or target_lufs is None or lufs < QUIETEST_LUFS:
        return 0.0
    gain = target_lufs - lufs
    if peak_dbtp is not None and gain > 0:
        gain = max(0.0, min(gain, CEILING_DBTP - peak_dbtp))
    return round(gain, 2)
