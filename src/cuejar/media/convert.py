"""Converts a sound or clip into a form that plays in every browser: Opus, or VP9 with Opus in WebM."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any, Literal

import av

from cuejar.media.probe import NotTaken
from cuejar.media.workers import teller

Plays = Literal["everywhere", "mostly", "nowhere"]

_EVERYWHERE = {
    "vp8", "vp9", "libvpx", "libvpx-vp9", "opus", "libopus", "vorbis", "libvorbis", "mp3", "mp3float", "flac",
    "pcm_s16le", "pcm_u8", "pcm_f32le", "png", "apng", "jpeg", "gif", "webp",
}  # fmt: skip
_MOSTLY = {"h264", "aac", "avif", "av1", "libdav1d", "libaom-av1", "pcm_s24le", "pcm_s32le"}
MS = Fraction(1, 1000)


def plays(form: str, codecs: list[str]) -> Plays:
    """Returns where browsers play a file: in all, in most (some are built without these decoders), or in none."""
    worst: Plays = "everywhere"
    for codec in codecs:
        if codec in _EVERYWHERE and not (form == "mp4" and codec.startswith(("vp8", "pcm"))):
            continue
        if codec in _MOSTLY:
            worst = "mostly"
        else:
            return "nowhere"
    return worst


def convert(progress: Path, source: Path, target: Path) -> Path:
    """Writes ``source`` as WebM (VP9 and Opus; transparency stays) or, without film, as Opus in Ogg.

    Runs in a worker process.

    Raises:
        NotTaken: it can't be decoded or encoded.
    """
    try:
        with av.open(str(source)) as container:
            film = next(iter(container.streams.video), None)
            form = "webm" if film is not None else "ogg"
            with av.open(str(target), "w", format=form) as out:
                _Converting(container, out, teller(progress)).all()
    except (av.FFmpegError, ValueError, OSError) as error:
        target.unlink(missing_ok=True)
        raise NotTaken(f"It can’t be converted: {error}.") from error
    return target


class _Converting:
    def __init__(self, container: Any, out: Any, told: Callable[[float], None]) -> None:
        self.container, self.out, self.told = container, out, told
        self.promised = float(container.duration or 0) / 1_000_000
        self.film: Any = next(iter(container.streams.video), None)
        self.sound: Any = next(iter(container.streams.audio), None)
        self.film_out: Any = None
        self.sound_out: Any = None
        self.decoder: Any = None
        self.resampler = av.AudioResampler("s16", "stereo", 48_000)
        if self.film is not None:
            self._begin_film()
        if self.sound is not None:
            self.sound_out = out.add_stream("libopus", rate=48_000, layout="stereo")
            self.sound_out.bit_rate = 128_000

    def _begin_film(self) -> None:
        film = self.film
        rate = film.average_rate or film.guessed_rate or 30
        self.film_out = self.out.add_stream("libvpx-vp9", rate=round(float(rate)) or 30)
        see_through = film.metadata.get("alpha_mode") == "1"
        self.film_out.width, self.film_out.height = film.width, film.height
        self.film_out.pix_fmt = "yuva420p" if see_through else "yuv420p"
        self.film_out.codec_context.time_base = MS
        self.film_out.options = {"crf": "31", "b": "0", "deadline": "good", "cpu-used": "4", "row-mt": "1"}
        if see_through:
            self.decoder = av.CodecContext.create("libvpx-vp9" if "vp9" in film.codec_context.name else "libvpx", "r")

    def _decoded(self, packet: Any) -> Iterator[Any]:
        if self.decoder is not None and packet.stream is self.film:
            if packet.size == 0:
                yield from self.decoder.decode(None)
            else:
                yield from self.decoder.decode(packet)
        else:
            yield from packet.decode()

    def all(self) -> None:
        last = -1
        for packet in self.container.demux([s for s in (self.film, self.sound) if s is not None]):
            base = packet.time_base
            for frame in self._decoded(packet):
                at = float((frame.pts or 0) * (frame.time_base or base))
                if self.promised:
                    self.told(min(0.99, at / self.promised))
                if isinstance(frame, av.AudioFrame):
                    for part in self.resampler.resample(frame):
                        self.out.mux(self.sound_out.encode(part))
                    continue
                picture = frame.reformat(format=self.film_out.pix_fmt)
                last = max(last + 1, round(at * 1000))
                picture.pts, picture.time_base = last, MS
                self.out.mux(self.film_out.encode(picture))
        if self.sound_out is not None:
            for part in self.resampler.resample(None):
                self.out.mux(self.sound_out.encode(part))
            self.out.mux(self.sound_out.encode(None))
        if self.film_out is not None:
            self.out.mux(self.film_out.encode(None))
        self.told(1)
