"""Measurements made while a file is read: loudness (EBU R 128), flashes, a strip of its pictures."""

from __future__ import annotations

import io
import math
from fractions import Fraction
from typing import Any

import av
import numpy as np
from av.audio.fifo import AudioFifo
from av.filter import Graph
from PIL import Image

from cuejar.core.measures.flash import Flashing, flashing, luminance_of
from cuejar.core.measures.loudness import TruePeak

CELLS = (9, 16)
STRIP_FRAMES, STRIP_SIZE = 8, (96, 54)
QUICK = 1
"""The compression of a PNG (0 to 9): low, as somebody is waiting for it."""
AT_ONCE = 32_768
"""The number of samples measured at a time."""
PICTURES_AT_ONCE = 32
CLIPPED = 0.9999
PLANES = "fltp"
BLOCK_S = 0.4
"""The measuring block of EBU R 128; a shorter sound is measured repeated."""


class Loudness:
    """Measures decoded sound: its loudness by FFmpeg's `ebur128`, its levels, and its true peak unless told not to.

    Frames are collected and measured many at a time, which costs little more than one.

    Attributes:
        levels: the highest level of each frame, 1 is full scale.
        clipped: how many samples are at full scale.
    """

    def __init__(self, peaks: bool = True) -> None:
        self.levels: list[float] = []
        self.clipped = 0
        self._graph: Graph | None = None
        self._form: tuple[str, str, int] | None = None
        self._seen: dict[str, str] = {}
        self._short: list[Any] = []
        self._length_s = 0.0
        self._peak = TruePeak() if peaks else None
        self._waits: AudioFifo | None = None
        self._sizes: list[int] = []
        self._waiting = 0

    def _pull(self) -> None:
        assert self._graph is not None
        while True:
            try:
                # The last piece, shorter than a tenth of a second, isn't measured.
                self._seen = self._graph.pull().metadata or self._seen
            except (BlockingIOError, EOFError, av.FFmpegError):
                return

    def _begin(self, layout: str, rate: int) -> None:
        graph = Graph()
        graph.threads = 1  # It may run beside a game, and starting threads takes longer than these sums.
        source = graph.add_abuffer(sample_rate=rate, format=PLANES, layout=layout, time_base=Fraction(1, rate))
        meter, sink = graph.add("ebur128", "metadata=1:framelog=quiet"), graph.add("abuffersink")
        source.link_to(meter)
        meter.link_to(sink)
        graph.configure()
        self._graph = graph

    def hear(self, frame: av.AudioFrame) -> None:
        """Takes the next frame, with its own instant; one of another format than the first is ignored."""
        form = (frame.format.name, frame.layout.name, frame.sample_rate)
        if self._form is None:
            self._form = form
            self._begin(*form[1:])
        if form != self._form or frame.samples == 0:
            return
        if self._waits is None:
            self._waits = AudioFifo()
        frame.pts = None  # Gaps and leaps don't matter here.
        self._waits.write(frame)
        self._sizes.append(frame.samples)
        self._waiting += frame.samples
        if self._waiting >= AT_ONCE:
            self._look()

    def _push(self, samples: Any) -> None:
        assert self._graph is not None and self._form is not None
        _, layout, rate = self._form
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples), PLANES, layout)
        frame.sample_rate = rate
        self._graph.push(frame)
        self._pull()

    def _look(self) -> None:
        """Measures what was collected."""
        frame = self._waits.read() if self._waits is not None and self._waiting else None
        if frame is None:
            return
        whole = _channels(frame.to_ndarray(), frame)
        loudest = np.abs(whole)
        begins = np.cumsum([0, *self._sizes[:-1]])
        self.levels += np.maximum.reduceat(loudest.max(axis=0), begins).tolist()
        self.clipped += int(np.count_nonzero(loudest >= CLIPPED))
        self._take(whole, frame.sample_rate)
        self._sizes, self._waiting = [], 0

    def _take(self, samples: Any, rate: int) -> None:
        if self._length_s < BLOCK_S:
            self._short.append(samples)
        self._length_s += samples.shape[1] / rate
        if self._peak is not None:
            self._peak.hear(samples)
        self._push(samples)

    def hear_made(self, samples: Any, rate: int) -> None:
        """Takes the whole of a sound that was made here, shape (n,), without its levels."""
        self._form = (PLANES, "mono", rate)
        self._begin("mono", rate)
        self._take(samples.reshape(1, -1), rate)

    def measured(self) -> tuple[float | None, float | None]:
        """Returns integrated loudness in LUFS and true peak in dBTP; none if silent, never heard or not asked for."""
        self._look()
        if self._graph is None or self._form is None or not self._short:
            return None, None
        if self._length_s < BLOCK_S:  # A sound shorter than a measuring block is repeated as often as needed.
            _, layout, rate = self._form
            self._begin(layout, rate)
            self._push(np.tile(np.concatenate(self._short, axis=1), (1, math.ceil(2 * BLOCK_S / self._length_s))))
        self._graph.push(None)
        self._pull()
        lufs = float(self._seen.get("lavfi.r128.I", "nan"))
        if not math.isfinite(lufs) or lufs <= -70:
            return None, None
        peak = self._peak.end() if self._peak is not None else 0.0
        return round(lufs, 2), round(20 * math.log10(peak), 2) if peak > 0 else None


def _channels(samples: Any, frame: av.AudioFrame) -> Any:
    """Returns a frame's samples relative to full scale, shape (channels, n)."""
    if not frame.format.is_planar:
        samples = samples.reshape(-1, frame.layout.nb_channels).T
    if samples.dtype == np.uint8:
        return (samples.astype(np.float32) - 128) / 128
    if np.issubdtype(samples.dtype, np.integer):
        return samples.astype(np.float32) / -float(np.iinfo(samples.dtype).min)
    return samples.astype(np.float32, copy=False)


class Flashes:
    """Checks every picture of something that moves."""

    def __init__(self) -> None:
        self._times: list[float] = []
        self._light: list[Any] = []
        self._waits: list[Any] = []

    def see(self, at_s: float, rgb: Any) -> None:
        """Takes one picture: its instant, and its sRGB bytes, shape (height, width, 3), the same for all."""
        self._times.append(at_s)
        self._waits.append(rgb)
        if len(self._waits) >= PICTURES_AT_ONCE:
            self._look()

    def _look(self) -> None:
        """Takes the luminance of each cell of what was collected."""
        if not self._waits:
            return
        rows, columns = CELLS
        light = luminance_of(np.stack(self._waits))
        count, height, width = light.shape
        cells = light[:, : height - height % rows, : width - width % columns].reshape(
            count, rows, height // rows, columns, width // columns
        )
        self._light += list(cells.mean(axis=(2, 4)).reshape(count, -1))
        self._waits = []

    def found(self, repeats_s: float = 0) -> list[Flashing]:
        """Returns where it flashes too often; ``repeats_s`` is one pass of a loop, so that its seam counts."""
        if len(self._times) < 2:
            return []
        self._look()
        times, light = np.array(self._times), np.array(self._light)
        if 0 < repeats_s < 3600:
            passes = math.ceil(2 / repeats_s) + 1 if repeats_s < 2 else 2
            times = np.concatenate([times + n * repeats_s for n in range(passes)])
            light = np.tile(light, (passes, 1))
        found = flashing(times, light)
        if repeats_s <= 0:
            return found
        kept = [f._replace(to_s=min(f.to_s, repeats_s)) for f in found if f.from_s < repeats_s]
        return kept or ([Flashing(0, repeats_s, max(f.flashes for f in found))] if found else [])


class Strip:
    """A few pictures side by side, for the score's blocks."""

    def __init__(self, length_s: float) -> None:
        self._step = length_s / STRIP_FRAMES if length_s > 0 else 0
        self._pictures: list[Image.Image] = []

    def __len__(self) -> int:
        return len(self._pictures)

    def wants(self, at_s: float) -> bool:
        return len(self._pictures) < STRIP_FRAMES and at_s >= self._step * len(self._pictures)

    def add(self, picture: Image.Image) -> None:
        factor = max(1, picture.width // STRIP_SIZE[0] // 2, picture.height // STRIP_SIZE[1] // 2)
        points = picture.resize((picture.width // factor, picture.height // factor), Image.Resampling.NEAREST)
        small = points.convert("RGBA")
        small.thumbnail(STRIP_SIZE, Image.Resampling.BILINEAR)
        self._pictures.append(small)

    def png(self) -> bytes:
        """Returns the strip as a PNG; empty if fewer than two pictures were seen."""
        if len(self._pictures) < 2:
            return b""
        width = max(p.width for p in self._pictures)
        height = max(p.height for p in self._pictures)
        strip = Image.new("RGBA", (width * len(self._pictures), height))
        for number, picture in enumerate(self._pictures):
            strip.paste(picture, (number * width, 0))
        out = io.BytesIO()
        strip.save(out, "PNG", compress_level=QUICK)
        return out.getvalue()
