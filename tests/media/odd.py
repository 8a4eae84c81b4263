"""Odd files, made here: sounds and clips of every form that is taken."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np


def write_sound(
    path: Path, codec: str, form: str, seconds: float = 1.0, rate: int = 48_000, level: float = 0.5
) -> Path:
    """A 440 Hz tone, mono; ``level`` 0 is silence, above 1 clips."""
    t = np.arange(int(seconds * rate)) / rate
    wave = np.clip(np.sin(2 * np.pi * 440 * t) * level, -1, 1)
    with av.open(str(path), "w", format=form) as container:
        stream = container.add_stream(codec, rate=rate, layout="mono")
        frame = av.AudioFrame.from_ndarray((wave * 32767).astype(np.int16).reshape(1, -1), format="s16", layout="mono")
        frame.sample_rate = rate
        for packet in [*stream.encode(frame), *stream.encode(None)]:
            container.mux(packet)
    return path


def write_clip(path: Path, codec: str, form: str, frames: int = 20, rate: int = 10, pixels: str = "yuv420p") -> Path:
    """A clip of ``frames`` pictures of 64 by 48, each of another grey."""
    with av.open(str(path), "w", format=form) as container:
        stream = container.add_stream(codec, rate=rate)
        stream.width, stream.height, stream.pix_fmt = 64, 48, pixels
        for number in range(frames):
            rgba = np.full((48, 64, 4), 40 + number * 8 % 200, np.uint8)
            rgba[:, :32, 3] = 0
            picture = av.VideoFrame.from_ndarray(rgba, format="rgba").reformat(format=pixels)
            for packet in stream.encode(picture):
                container.mux(packet)
        for packet in stream.encode(None):
            container.mux(packet)
    return path
