"""What is in a file: sniffed from its content, never believed from its name.

Runs in a worker process. Pictures (PNG, APNG, JPEG, GIF, WebP) are read by Pillow, sounds and clips (MP3, Ogg, WAV, WebM,
MP4) by PyAV. Everything is decoded once from end to end, so that a truncated file is found here and not on the stream.
"""

from __future__ import annotations

import io
import warnings
from pathlib import Path
from typing import Any, Literal, NamedTuple

import av
import numpy as np
from PIL import Image, ImageFile, ImageSequence, UnidentifiedImageError

WAVE_POINTS = 240
POSTER = (480, 480)
MOST_FRAMES = 20_000
MOST_SECONDS = 3 * 3600


class NotTaken(Exception):
    """A file that cannot be taken; the text says why in the user's words."""


class Probed(NamedTuple):
    """What is in a file. ``length_s`` is one pass (0: a still picture); ``loops`` as the file says (0: for ever);
    ``wave`` has `WAVE_POINTS` levels from 0 to 1; ``poster`` is a PNG."""

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


def _looks_like(head: bytes) -> str | None:
    """The family of a file by its first bytes."""
    if head.startswith((b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"GIF87a", b"GIF89a")):
        return "picture"
    if head[:4] == b"RIFF" and head[8:12] == b"WEBP":
        return "picture"
    if head[:4] == b"RIFF" and head[8:12] == b"WAVE":
        return "av"
    if head.startswith((b"OggS", b"ID3", b"\x1aE\xdf\xa3")) or head[4:8] == b"ftyp":
        return "av"
    if len(head) > 1 and head[0] == 0xFF and head[1] & 0xE0 == 0xE0:
        return "av"
    return None


def probe(path: Path, max_pixels: int) -> Probed:
    """Reads a file through.

    Raises:
        NotTaken: it is empty, of no kind that is taken, broken, truncated, or too large to show.
    """
    size = path.stat().st_size
    if size == 0:
        raise NotTaken("The file is empty.")
    with path.open("rb") as file:
        head = file.read(4096)
    family = _looks_like(head)
    if family == "picture":
        return _picture(path, max_pixels)
    if family == "av":
        promised = int.from_bytes(head[4:8], "little") + 8 if head[:4] == b"RIFF" else 0
        if size < promised < 0xFFFFFFFF:
            raise NotTaken(f"The file is cut off: {size} of {promised} bytes are there.")
        return _av(path, max_pixels)
    text = head.lstrip().lower()
    if text.startswith((b"<?xml", b"<svg", b"<!doctype")) or b"<svg" in text[:1000]:
        raise NotTaken(
            "This is a drawing as text (SVG or a web page), which can carry programs. Save it as PNG or WebP."
        )
    raise NotTaken("This is none of PNG, APNG, JPEG, GIF, WebP, MP3, Ogg, WAV, WebM or MP4.")


_MIMES = {"PNG": "image/png", "JPEG": "image/jpeg", "GIF": "image/gif", "WEBP": "image/webp"}


def _picture(path: Path, max_pixels: int) -> Probed:
    ImageFile.LOAD_TRUNCATED_IMAGES = False
    Image.MAX_IMAGE_PIXELS = None
    notes = []
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            image = Image.open(path, formats=list(_MIMES))
    except UnidentifiedImageError as error:
        raise NotTaken("The picture is broken: it cannot be read.") from error
    except Exception as error:
        raise NotTaken(f"The picture is broken: {error}.") from error
    with image:
        width, height = image.size
        if width * height > max_pixels:
            raise NotTaken(
                f"The picture is {width} by {height}; more than {max_pixels // 1_000_000} million points are not taken."
            )
        frames = getattr(image, "n_frames", 1)
        if frames > MOST_FRAMES or frames * width * height > max_pixels * 200:
            raise NotTaken(f"The picture has {frames} frames of {width} by {height}; that is too much to show.")
        length_ms, poster, brightest = 0.0, None, -1
        try:
            for frame in ImageSequence.Iterator(image):
                frame.load()
                length_ms += float(frame.info.get("duration", 0) or 0)
                if poster is None or _content(frame) > brightest:
                    poster, brightest = frame.convert("RGBA"), _content(frame)
                if frames > 12 and brightest > 0:
                    brightest = 1 << 60
        except (OSError, EOFError, SyntaxError, ValueError) as error:
            raise NotTaken(f"The picture is cut off or broken: {error}.") from error
        if frames > 1 and length_ms == 0:
            length_ms = 100 * frames
            notes.append("No frame says how long it is up; browsers take 0.1 s.")
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
            poster=_png(poster),
        )


def _content(frame: Image.Image) -> int:
    """How much there is to see, so that the poster is not an empty first frame."""
    small = frame.convert("RGBA").resize((16, 16))
    return int(np.asarray(small)[:, :, 3].sum())


def _loops(image: Image.Image) -> int:
    """How often the picture repeats by itself; a GIF without a loop block plays once, n repeats are n + 1 passes."""
    if "loop" not in image.info:
        return 1
    loop = int(image.info["loop"])
    if loop == 0:
        return 0
    return loop + 1 if image.format == "GIF" else loop


def _png(image: Image.Image) -> bytes:
    image.thumbnail(POSTER)
    out = io.BytesIO()
    image.save(out, "PNG", optimize=True)
    return out.getvalue()


_AV_FORMATS = {
    "mp3": ("mp3", "audio/mpeg"),
    "ogg": ("ogg", "audio/ogg"),
    "wav": ("wav", "audio/wav"),
    "matroska": ("webm", "video/webm"),
    "mov": ("mp4", "video/mp4"),
}


def _av(path: Path, max_pixels: int) -> Probed:
    try:
        container = av.open(str(path), mode="r", options={"err_detect": "explode"})
    except (av.FFmpegError, OSError, ValueError) as error:
        raise NotTaken("The file is broken or cut off: it cannot be opened as sound or film.") from error
    with container:
        found = next((value for key, value in _AV_FORMATS.items() if key in container.format.name.split(",")), None)
        if found is None:
            raise NotTaken(
                f"A file of the form {container.format.name} is not taken; save it as MP3, Ogg, WAV, WebM or MP4."
            )
        name, mime = found
        sound = next(iter(container.streams.audio), None)
        pictures = [s for s in container.streams.video if not s.disposition & av.stream.Disposition.attached_pic]
        film = pictures[0] if pictures else None
        if sound is None and film is None:
            raise NotTaken("There is neither sound nor film in this file.")
        if film is not None and film.width * film.height > max_pixels:
            raise NotTaken(f"The film is {film.width} by {film.height}; that is too large to show.")
        length, wave, poster, problem = _decoded(container, sound, film)
    if length <= 0:
        raise NotTaken("The file is cut off: nothing in it can be played.")
    if problem:
        raise NotTaken(f"The file is cut off or broken after {length:.1f} s: {problem}.")
    if film is None:
        mime = mime.replace("video/", "audio/")
    width, height = (film.width, film.height) if film is not None else (0, 0)
    notes = ("The file is silent from end to end.",) if sound is not None and wave and max(wave) < 1e-4 else ()
    return Probed(
        "clip" if film is not None else "sound",
        name,
        mime,
        round(length, 3),
        1,
        width,
        height,
        sound is not None,
        notes,
        tuple(round(float(v), 3) for v in wave),
        poster,
    )


def _decoded(container: Any, sound: Any, film: Any) -> tuple[float, list[float], bytes, str]:
    """Decodes everything. Returns length in s, wave form, poster, and what broke off ('' if nothing did)."""
    streams = [s for s in (sound, film) if s is not None]
    promised = float(container.duration or 0) / 1_000_000
    peaks: list[float] = []
    length, poster, frames, problem = 0.0, b"", 0, ""
    try:
        for packet in container.demux(streams):
            for frame in packet.decode():
                if frame.pts is not None:
                    span = frame.samples / frame.sample_rate if isinstance(frame, av.AudioFrame) else 0
                    length = max(length, float(frame.pts * frame.time_base) + span)
                if length > MOST_SECONDS:
                    raise NotTaken("The file is longer than three hours.")
                if isinstance(frame, av.AudioFrame):
                    block = frame.to_ndarray()
                    scale = float(2 ** (8 * block.dtype.itemsize - 1)) if block.dtype.kind in "iu" else 1.0
                    peaks.append(float(np.abs(block.astype(np.float32)).max() / scale) if block.size else 0.0)
                else:
                    frames += 1
                    if frames in (1, 12):
                        poster = _png(frame.to_image())
    except (av.FFmpegError, EOFError, ValueError) as error:
        problem = str(error).split("]")[-1].strip() or "it cannot be decoded"
    if film is not None and film.average_rate:
        length += 1 / float(film.average_rate) if sound is None else 0
    if not problem and promised > 0.5 and length < promised * 0.9 - 0.2:
        problem = f"{promised:.1f} s were promised"
    return length, _resampled(peaks), poster, problem


def _resampled(peaks: list[float]) -> list[float]:
    if not peaks:
        return []
    marks = np.linspace(0, len(peaks), WAVE_POINTS + 1)
    return [max(peaks[int(a) : max(int(a) + 1, int(b))] or [0.0]) for a, b in zip(marks, marks[1:], strict=False)]
