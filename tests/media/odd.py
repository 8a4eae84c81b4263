"""Odd files, made here: sounds and clips of every accepted form."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np


def write_sound(
    path: Path, codec: str, form: str, seconds: float = 1.0, rate: int = 48_000, level: float = 0.5
) -> Path:
    """Writes a 440 Hz tone, mono; ``level`` 0 is silence, above 1 clips."""
    t = np.arange(int(seconds * rate)) / rate
    wave = np.clip(np.sin(2 * np.pi * 440 * t) * level, -1, 1)
    with av.open(str(path), "w", format=form) as container:
        stream: Any = container.add_stream(codec, rate=rate, layout="mono")
        frame = av.AudioFrame.from_ndarray((wave * 32767).astype(np.int16).reshape(1, -1), format="s16", layout="mono")
        frame.sample_rate = rate
        for packet in [*stream.encode(frame), *stream.encode(None)]:
            container.mux(packet)
    return path


def write_clip(path: Path, codec: str, form: str, frames: int = 20, rate: int = 10, pixels: str = "yuv420p") -> Path:
    """Writes a clip of ``frames`` pictures of 64 by 48, each of another grey."""
    with av.open(str(path), "w", format=form) as container:
        stream: Any = container.add_stream(codec, rate=rate)
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


def write_stereo(path: Path, wave: np.ndarray, rate: int = 48_000) -> Path:
    """Writes a WAV of float samples from -1 to 1, shape (samples, channels)."""
    layout = "stereo" if wave.shape[1] == 2 else "mono"
    with av.open(str(path), "w", format="wav") as container:
        stream = container.add_stream("pcm_s16le", rate=rate, layout=layout)
        samples = np.ascontiguousarray((np.clip(wave, -1, 1) * 32767).astype(np.int16).reshape(1, -1))
        frame = av.AudioFrame.from_ndarray(samples, format="s16", layout=layout)
        frame.sample_rate = rate
        for packet in [*stream.encode(frame), *stream.encode(None)]:
            container.mux(packet)
    return path


def write_uneven(path: Path) -> Path:
    """Writes a clip whose pictures are up for very different times."""
    with av.open(str(path), "w", format="webm") as container:
        stream = container.add_stream("libvpx-vp9", rate=30)
        stream.width, stream.height, stream.pix_fmt = 64, 48, "yuv420p"
        stream.codec_context.time_base = Fraction(1, 1000)
        for number, at in enumerate((0, 40, 80, 120, 900, 940, 980, 1900)):
            picture = av.VideoFrame.from_ndarray(np.full((48, 64, 3), 20 * number, np.uint8), format="rgb24")
            picture = picture.reformat(format="yuv420p")
            picture.pts, picture.time_base = at, Fraction(1, 1000)
            container.mux(stream.encode(picture))
        container.mux(stream.encode(None))
    return path


def write_turned(path: Path) -> Path:
    """Writes a film whose file says that it lies on its side: a track matrix of a quarter turn in an MP4."""
    write_clip(path, "libx264", "mp4")
    content = bytearray(path.read_bytes())
    one, none = (0x10000).to_bytes(4, "big"), bytes(4)
    upright = one + none * 2 + none + one + none * 2 + none + (0x40000000).to_bytes(4, "big")
    quarter = (
        none + one + none + (0xFFFF0000).to_bytes(4, "big") + none * 2 + none * 2 + (0x40000000).to_bytes(4, "big")
    )
    track = content.index(b"tkhd")
    at = content.index(upright, track)
    content[at : at + len(upright)] = quarter
    path.write_bytes(content)
    return path
