"""What is in a file: determined by its content, never by its name.

Runs in a worker process. Pillow reads pictures (PNG, APNG, JPEG, GIF, WebP, AVIF), PyAV sounds and clips (MP3, Ogg,
WAV, FLAC, WebM, MP4). Everything is decoded once from end to end, so that a truncated file is found here and not on the
stream; its loudness and its flashes are measured in the same pass.
"""

from __future__ import annotations

import io
import warnings
from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal, NamedTuple

import av
import numpy as np
from PIL import Image, ImageFile, ImageOps, ImageSequence, UnidentifiedImageError

from cuejar.core.measures.flash import Flashing
from cuejar.media.measure import QUICK, Flashes, Loudness, Strip
from cuejar.media.workers import teller
from cuejar.platform import processor_time

WAVE_POINTS = 240
POSTER = (480, 480)
MOST_POSTER = 250_000
"""Maximum bytes of a small PNG that is its own poster."""
MOST_FRAMES = 3_000
MOST_PICTURES = 40
"""The maximum size of all frames, in multiples of the largest picture."""
WORK_S = 20.0
"""The maximum processor time for reading a file."""
MOST_SECONDS = 3 * 3600
PADDING_S = 0.1
"""By how much an encoder may lengthen a sound, to fill its last block."""
FLASH_SIZE = (64, 36)
PROBE = 4
"""Raised whenever more is measured; files read by an older version are read again."""

Told = Callable[[float], None]
"""Gets the progress of the work, 0 to 1."""


class NotTaken(Exception):
    """A refused file; the text says why in the user's words."""


class TakesTooLong(NotTaken):
    """Reading the file exceeds the limit on processor time."""

    def __init__(self) -> None:
        super().__init__(f"Reading the file takes more than {WORK_S:.0f} s of work; it is not taken.")


class Probed(NamedTuple):
    """What is in a file. ``length_s`` is one pass (0: a still picture); ``loops`` as the file says (0: for ever);
    ``wave`` has `WAVE_POINTS` levels from 0 to 1; ``poster`` and ``strip`` are PNGs; ``codecs`` are FFmpeg's names;
    ``lufs`` and ``peak_dbtp`` are none for what is silent; ``flashes`` are the stretches that break RULES 10."""

    kind: Literal["picture", "clip", "sound"]
    format: str
    mime: str
    length_s: float = 0
    loops: int = 0
    width: int = 0
    height: int = 0
    has_sound: bool = False
    notes: tuple[str, ...] = ()
    wave: tuple[float, ...] = ()
    poster: bytes = b""
    strip: bytes = b""
    codecs: tuple[str, ...] = ()
    alpha: bool = False
    lufs: float | None = None
    peak_dbtp: float | None = None
    flashes: tuple[Flashing, ...] = ()


_AVIF = {b"avif", b"avis"}
"""The brands of AV1 pictures and of animated ones (AVIF 1.1, 6 and 7)."""


def _looks_like(head: bytes) -> str | None:
    """Returns the family of a file by its first bytes."""
    if head.startswith((b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"GIF87a", b"GIF89a")):
        return "picture"
    if head[:4] == b"RIFF" and head[8:12] == b"WEBP":
        return "picture"
    if head[4:8] == b"ftyp" and _AVIF & {
        head[at : at + 4] for at in range(8, min(64, int.from_bytes(head[:4], "big")), 4)
    }:
        return "picture"
    if head[:4] == b"RIFF" and head[8:12] == b"WAVE":
        return "av"
    if head.startswith((b"OggS", b"ID3", b"fLaC", b"\x1aE\xdf\xa3")) or head[4:8] == b"ftyp":
        return "av"
    if len(head) > 1 and head[0] == 0xFF and head[1] & 0xE0 == 0xE0:
        return "av"
    return None


def _deaf(_: float) -> None:
    pass


def probe(path: Path, max_pixels: int, told: Told = _deaf) -> Probed:
    """Reads a whole file.

    Raises:
        NotTaken: it is empty, of an unknown kind, broken, truncated, or too large to show.
    """
    size = path.stat().st_size
    if size == 0:
        raise NotTaken("The file is empty.")
    with path.open("rb") as file:
        head = file.read(4096)
    family = _looks_like(head)
    if family == "picture":
        return _picture(path, max_pixels, told)
    if family == "av":
        promised = int.from_bytes(head[4:8], "little") + 8 if head[:4] == b"RIFF" else 0
        if size < promised < 0xFFFFFFFF:
            raise NotTaken(f"The file is cut off: {size} of {promised} bytes are there.")
        return _av(path, max_pixels, told)
    text = head.lstrip().lower()
    if text.startswith((b"<?xml", b"<svg", b"<!doctype")) or b"<svg" in text[:1000]:
        raise NotTaken("This is an SVG or a web page, which can contain programs. Save it as PNG or WebP.")
    raise NotTaken("Only PNG, APNG, JPEG, GIF, WebP, AVIF, MP3, Ogg, WAV, FLAC, WebM and MP4 are supported.")


def read_file(progress: Path, path: Path, max_pixels: int) -> Probed:
    """Runs `probe` in a worker."""
    with processor_time(WORK_S, TakesTooLong):
        return probe(path, max_pixels, teller(progress))


_ORIENTATION, _ON_ITS_SIDE = 0x0112, frozenset({5, 6, 7, 8})
"""The tag for a photo's orientation (Exif 2.32, 4.6.4), and its values for a photo on its side."""
SHORT_MS, SHORT_AS_MS = 10, 100
"""Browsers show frames this short, and those without a duration, for this long."""
_MIMES = {"PNG": "image/png", "JPEG": "image/jpeg", "GIF": "image/gif", "WEBP": "image/webp", "AVIF": "image/avif"}


def _picture(path: Path, max_pixels: int, told: Told) -> Probed:
    ImageFile.LOAD_TRUNCATED_IMAGES = False
    Image.MAX_IMAGE_PIXELS = None
    notes = []
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            image = Image.open(path, formats=list(_MIMES))
    except UnidentifiedImageError as error:
        raise NotTaken("The picture is damaged and can’t be read.") from error
    except Exception as error:
        raise NotTaken(f"The picture is damaged: {error}.") from error
    with image:
        width, height = image.size
        if width * height > max_pixels:
            raise NotTaken(
                f"The picture is {width} by {height}; more than {max_pixels // 1_000_000} million points are not taken."
            )
        frames = getattr(image, "n_frames", 1)
        if frames > MOST_FRAMES or frames * width * height > max_pixels * MOST_PICTURES:
            raise NotTaken(
                f"The picture has {frames:,} frames of {width} by {height}; at most {MOST_FRAMES:,}, and {MOST_PICTURES} times "
                f"{max_pixels // 1_000_000} million points in all, are taken. Make it a clip instead."
            )
        turned = image.getexif().get(_ORIENTATION, 1) if frames == 1 else 1
        if turned in _ON_ITS_SIDE:
            width, height = height, width
        length_ms, poster, brightest, short = 0.0, None, -1, False
        flashes, strip, alpha = Flashes(), Strip(0), False
        try:
            for number, frame in enumerate(ImageSequence.Iterator(image)):
                frame.load()
                points = frame.resize(FLASH_SIZE, Image.Resampling.NEAREST).convert("RGBA")
                alpha = alpha or _see_through(frame)
                if frames > 1:
                    flashes.see(length_ms / 1000, _over_black(points))
                    if number * 8 >= len(strip) * frames:
                        strip.add(frame)
                    told(number / frames)
                span_ms = float(frame.info.get("duration", 0) or 0)
                short = short or 0 < span_ms <= SHORT_MS
                length_ms += span_ms if span_ms > SHORT_MS else SHORT_AS_MS
                if number < 12 and (content := _content(points)) > brightest:
                    upright = ImageOps.exif_transpose(frame) if turned != 1 else frame
                    poster, brightest = _kept(upright, frames, alpha), content
        except (OSError, EOFError, SyntaxError, ValueError) as error:
            raise NotTaken(f"The picture is cut off or damaged: {error}.") from error
        if frames > 1 and not image.info.get("duration"):
            notes.append("Frame durations are missing; browsers show each for 0.1 s.")
        elif short:
            notes.append("Frames of 10 ms or less are shown for 0.1 s each, as browsers do.")
        if frames == 1:
            length_ms = 0
        loops = _loops(image) if frames > 1 else 0
        name = image.format or "PNG"
        assert poster is not None
        return Probed(
            "picture",
            "apng" if name == "PNG" and frames > 1 else name.lower(),
            _MIMES[name],
            round(length_ms / 1000, 3),
            loops,
            width,
            height,
            notes=tuple(notes),
            poster=path.read_bytes() if frames == 1 and _is_a_poster(image, path) else _png(poster),
            strip=strip.png(),
            codecs=(name.lower(),),
            alpha=alpha,
            flashes=tuple(flashes.found(length_ms / 1000 if loops != 1 else 0)) if frames > 1 else (),
        )


def _see_through(image: Image.Image) -> bool:
    if not image.has_transparency_data:
        return False
    least, _ = (image if image.mode in ("RGBA", "LA") else image.convert("RGBA")).getchannel("A").getextrema()
    return bool(least < 255)  # type: ignore[operator]


def _kept(frame: Image.Image, frames: int, alpha: bool) -> Image.Image:
    """Returns a frame in the poster's size; a still picture's frame is used up."""
    mode = "RGBA" if alpha else "RGB"
    return frame if frames == 1 and frame.mode == mode else frame.convert(mode)


def _is_a_poster(image: Image.Image, path: Path) -> bool:
    """Returns whether a still picture can be its own poster."""
    fits = image.width <= POSTER[0] and image.height <= POSTER[1]
    return fits and image.format == "PNG" and path.stat().st_size <= MOST_POSTER


def _over_black(points: Image.Image) -> Any:
    """Returns points of a picture over black as RGB bytes; points instead of means, which would cost more than
    everything else.
    """
    return np.asarray(points.convert("RGBa"))[:, :, :3]


def _content(points: Image.Image) -> int:
    """Returns how much there is to see, so that the poster isn't an empty first frame."""
    return int(np.asarray(points)[:, :, 3].sum())


def _loops(image: Image.Image) -> int:
    """Returns how often the picture repeats; a GIF without a loop block plays once, n repeats are n + 1 passes."""
    if "loop" not in image.info:
        return 1
    loop = int(image.info["loop"])
    if loop == 0:
        return 0
    return loop + 1 if image.format == "GIF" else loop


def _png(image: Image.Image) -> bytes:
    image.thumbnail(POSTER, Image.Resampling.BILINEAR)
    out = io.BytesIO()
    image.save(out, "PNG", compress_level=QUICK)
    return out.getvalue()


_AV_FORMATS = {
    "mp3": ("mp3", "audio/mpeg"),
    "ogg": ("ogg", "audio/ogg"),
    "wav": ("wav", "audio/wav"),
    "flac": ("flac", "audio/flac"),
    "matroska": ("webm", "video/webm"),
    "mov": ("mp4", "video/mp4"),
}


def _av(path: Path, max_pixels: int, told: Told) -> Probed:
    try:
        container = av.open(str(path), mode="r", options={"err_detect": "explode"})
    except (av.FFmpegError, OSError, ValueError) as error:
        raise NotTaken("The file is damaged or cut off and can’t be opened as sound or video.") from error
    with container:
        found = next((value for key, value in _AV_FORMATS.items() if key in container.format.name.split(",")), None)
        if found is None:
            raise NotTaken(
                f"A file of the form {container.format.name} is not taken; save it as MP3, Ogg, WAV, FLAC, WebM or MP4."
            )
        name, mime = found
        sound = next(iter(container.streams.audio), None)
        pictures = [s for s in container.streams.video if not s.disposition & av.stream.Disposition.attached_pic]
        film = pictures[0] if pictures else None
        if sound is None and film is None:
            raise NotTaken("This file has neither sound nor video.")
        if film is not None and film.width * film.height > max_pixels:
            raise NotTaken(f"The film is {film.width} by {film.height}; that is too large to show.")
        reading = _Reading(container, sound, film, told)
        reading.all()
        rotated = reading.rotation % 180 != 0
    length = reading.length
    if length <= 0:
        raise NotTaken("The file is cut off: nothing in it can be played.")
    if reading.problem:
        raise NotTaken(f"The file is cut off or damaged after {length:.1f} s: {reading.problem}.")
    if film is None:
        mime = mime.replace("video/", "audio/")
    width, height = (film.width, film.height) if film is not None else (0, 0)
    lufs, peak = reading.loudness.measured()
    wave = _resampled(reading.loudness.levels)
    return Probed(
        "clip" if film is not None else "sound",
        name,
        mime,
        round(length, 3),
        1,
        *((height, width) if rotated else (width, height)),
        sound is not None,
        tuple(reading.notes(wave)),
        tuple(round(float(v), 3) for v in wave),
        reading.poster,
        reading.strip.png(),
        tuple(str(s.codec_context.name) for s in (film, sound) if s is not None),
        film is not None and film.metadata.get("alpha_mode") == "1",
        lufs,
        peak,
        tuple(reading.flashes.found()),
    )


class _Reading:
    """Decodes everything in a container and collects what is to be known of it."""

    def __init__(self, container: Any, sound: Any, film: Any, told: Told) -> None:
        self.container, self.sound, self.film, self.told = container, sound, film, told
        self.promised = float(container.duration or 0) / 1_000_000
        self.length, self.rotation, self.poster, self.problem = 0.0, 0, b"", ""
        self.loudness, self.flashes, self.strip = Loudness(), Flashes(), Strip(self.promised)
        self._frames, self._heard = 0, 0.0
        self._gaps: list[float] = []
        self._last_at: float | None = None

    def all(self) -> None:
        streams = [s for s in (self.sound, self.film) if s is not None]
        try:
            for packet in self.container.demux(streams):
                for frame in packet.decode():
                    self._frame(frame)
        except (av.FFmpegError, EOFError, ValueError) as error:
            self.problem = str(error).split("]")[-1].strip() or "it cannot be decoded"
        if self.film is None:
            self.length = self._heard  # Encoders' padding before it isn't heard, though its times count it.
        if self.promised < self.length < self.promised + PADDING_S and "mov" in self.container.format.name:
            self.length = self.promised  # The file itself cuts off their padding after it.
        if self.film is not None and self.film.average_rate and self.sound is None:
            self.length += 1 / float(self.film.average_rate)
        if not self.problem and self.promised > 0.5 and self.length < self.promised * 0.9 - 0.2:
            self.problem = f"{self.promised:.1f} s were expected"

    def _frame(self, frame: Any) -> None:
        if frame.pts is not None:
            span = frame.samples / frame.sample_rate if isinstance(frame, av.AudioFrame) else 0
            self._heard += span
            self.length = max(self.length, frame.time + span)
        if self.length > MOST_SECONDS:
            raise NotTaken("The file is longer than three hours.")
        if isinstance(frame, av.AudioFrame):
            self.loudness.hear(frame)
        else:
            self._picture(frame)
        if self.promised > 0:
            self.told(min(1.0, self.length / self.promised))

    def _picture(self, frame: Any) -> None:
        self._frames += 1
        at = frame.time or 0.0
        if self._last_at is not None:
            self._gaps.append(at - self._last_at)
        self._last_at = at
        small = frame.reformat(*FLASH_SIZE, format="rgb24")
        self.flashes.see(at, small.to_ndarray())
        if self._frames in (1, 12) or self.strip.wants(at):
            self.rotation = int(getattr(frame, "rotation", 0) or 0)
            image = frame.to_image()
            if self.rotation:
                image = image.rotate(self.rotation, expand=True)
            if self.strip.wants(at):
                self.strip.add(image)
            if self._frames in (1, 12):
                self.poster = _png(image)

    def notes(self, wave: list[float]) -> list[str]:
        out = []
        if self.sound is not None and wave and max(wave) < 1e-4:
            out.append("The file is completely silent.")
        if self.loudness.clipped > 50:
            out.append("The sound is clipped: it was recorded too loud and distorts at its peaks.")
        if self._gaps and max(self._gaps) > 2.5 * (sum(self._gaps) / len(self._gaps)):
            out.append("The pictures come at uneven times; after Convert they keep them.")
        if self.rotation:
            out.append(f"The video is rotated by {self.rotation % 360}° in its file and is shown upright.")
        return out


def _resampled(peaks: list[float]) -> list[float]:
    if not peaks:
        return []
    marks = np.linspace(0, len(peaks), WAVE_POINTS + 1)
    return [max(peaks[int(a) : max(int(a) + 1, int(b))] or [0.0]) for a, b in zip(marks, marks[1:], strict=False)]
