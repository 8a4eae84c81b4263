"""What is read of files of every form: their kind, length, loops; and why some are refused."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from PIL import Image

from cuejar.media import probe as probing
from cuejar.media.probe import WAVE_POINTS, NotTaken, probe, read_file
from tests.media.odd import write_clip, write_sound

LIMIT = 50_000_000


def frames(path: Path, form: str, count: int = 4, duration: int | list[int] = 100, **more: object) -> Path:
    made = [Image.new("RGBA", (40, 30), (60 * i % 256, 90, 0, 255)) for i in range(count)]
    made[0].save(path, form, save_all=True, append_images=made[1:], duration=duration, **more)
    return path


TAKEN: dict[str, tuple[Callable[[Path], Path], tuple[str, str, float, int]]] = {
    "wav": (lambda p: write_sound(p, "pcm_s16le", "wav", 1.5), ("sound", "wav", 1.5, 1)),
    "mono 8 kHz": (lambda p: write_sound(p, "pcm_s16le", "wav", 1.0, 8000), ("sound", "wav", 1.0, 1)),
    "mp3": (lambda p: write_sound(p, "libmp3lame", "mp3", 2.0), ("sound", "mp3", 2.0, 1)),
    "opus": (lambda p: write_sound(p, "libopus", "ogg", 1.0), ("sound", "ogg", 1.0, 1)),
    "silent": (lambda p: write_sound(p, "pcm_s16le", "wav", 1.0, level=0), ("sound", "wav", 1.0, 1)),
    "clipped": (lambda p: write_sound(p, "pcm_s16le", "wav", 1.0, level=4), ("sound", "wav", 1.0, 1)),
    "webm": (lambda p: write_clip(p, "libvpx-vp9", "webm"), ("clip", "webm", 2.0, 1)),
    "webm with alpha": (lambda p: write_clip(p, "libvpx-vp9", "webm", pixels="yuva420p"), ("clip", "webm", 2.0, 1)),
    "mp4": (lambda p: write_clip(p, "libx264", "mp4"), ("clip", "mp4", 2.0, 1)),
    "gif for ever": (lambda p: frames(p, "GIF", loop=0), ("picture", "gif", 0.4, 0)),
    "gif three more times": (lambda p: frames(p, "GIF", loop=3), ("picture", "gif", 0.4, 4)),
    "gif once": (lambda p: frames(p, "GIF"), ("picture", "gif", 0.4, 1)),
    "gif of one picture": (lambda p: frames(p, "GIF", 1), ("picture", "gif", 0, 0)),
    "gif of uneven pictures": (lambda p: frames(p, "GIF", 3, [50, 200, 750], loop=0), ("picture", "gif", 1.0, 0)),
    "gif without times": (lambda p: frames(p, "GIF", 4, 0, loop=0), ("picture", "gif", 0.4, 0)),
    "apng": (lambda p: frames(p, "PNG", loop=2), ("picture", "apng", 0.4, 2)),
    "webp": (lambda p: frames(p, "WEBP", loop=0), ("picture", "webp", 0.4, 0)),
    "png": (lambda p: frames(p, "PNG", 1), ("picture", "png", 0, 0)),
}


@pytest.mark.parametrize("name", TAKEN)
def test_taken(name: str, tmp_path: Path) -> None:
    write, (kind, form, length, loops) = TAKEN[name]
    found = probe(write(tmp_path / "file.bin"), LIMIT)
    assert (found.kind, found.format, found.loops) == (kind, form, loops)
    assert found.length_s == pytest.approx(length, abs=0.06)
    if kind == "sound":
        assert len(found.wave) == WAVE_POINTS
        loud = {"silent": 0, "clipped": 1}.get(name, 0.5)
        assert max(found.wave) == pytest.approx(loud, abs=0.06)
        assert bool(found.notes) == (name in ("silent", "clipped"))
    else:
        assert found.poster.startswith(b"\x89PNG")
        assert (found.width, found.height) in ((40, 30), (64, 48))


def cut(write: Callable[[Path], Path], share: float) -> Callable[[Path], Path]:
    def made(path: Path) -> Path:
        whole = write(path).read_bytes()
        path.write_bytes(whole[: int(len(whole) * share)])
        return path

    return made


NOT_TAKEN: dict[str, tuple[Callable[[Path], Path], str]] = {
    "mp4 cut off": (cut(TAKEN["mp4"][0], 0.5), "damaged or cut off"),
    "webm cut off": (cut(lambda p: write_clip(p, "libvpx-vp9", "webm", 60), 0.4), "cut off"),
    "wav cut off": (cut(lambda p: write_sound(p, "pcm_s16le", "wav", 4.0), 0.3), "cut off"),
    "webp cut off": (cut(TAKEN["webp"][0], 0.5), "damaged"),
    "apng cut off": (cut(TAKEN["apng"][0], 0.6), "damaged"),
    "jpeg cut off": (cut(lambda p: (Image.effect_noise((200, 200), 90).save(p, "JPEG"), p)[1], 0.5), "damaged"),
    "huge": (lambda p: (Image.new("1", (9000, 9000)).save(p, "PNG"), p)[1], "9000 by 9000"),
    "more pictures than anybody counts": (
        lambda p: frames(p, "GIF", 3_001, 20, optimize=False),
        r"3,001 frames of 40 by 30; at most 3,000",
    ),
    "a film without an end": (lambda p: (p.write_bytes(b"\x00\x00\x00\x20ftypisom" + bytes(100)), p)[1], "damaged"),
}


@pytest.mark.parametrize("name", NOT_TAKEN)
def test_not_taken(name: str, tmp_path: Path) -> None:
    write, says = NOT_TAKEN[name]
    path = write(tmp_path / "file.bin")
    with pytest.raises(NotTaken, match=says):
        probe(path, LIMIT)


def test_reading_ends_after_its_share_of_work(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The reader's own processor time counts, not its waiting."""
    monkeypatch.setattr(probing, "WORK_S", 0.05)
    path = frames(tmp_path / "busy.gif", "GIF", 900, 20)
    with pytest.raises(NotTaken, match="more than 0 s of work"):
        read_file(tmp_path / "told", path, LIMIT)
    monkeypatch.setattr(probing, "WORK_S", 20)
    assert read_file(tmp_path / "told", path, LIMIT).length_s == pytest.approx(18, abs=0.1)


def _tone(path: Path, codec: str, seconds: float, rate: int = 44_100) -> Path:
    """Returns a tone of an exact length in seconds, encoded."""
    samples = (0.3 * np.sin(2 * np.pi * 440 * np.arange(round(rate * seconds)) / rate)).astype(np.float32)
    with av.open(str(path), "w") as out:
        stream: Any = out.add_stream(codec, rate=rate, layout="stereo")
        frame = av.AudioFrame.from_ndarray(np.stack([samples, samples]), format="fltp", layout="stereo")
        frame.sample_rate, frame.pts = rate, 0
        blocks = av.AudioResampler(
            stream.codec_context.format.name, "stereo", rate, stream.codec_context.frame_size or 1024
        )
        for block in [*blocks.resample(frame), *blocks.resample(None)]:
            out.mux(stream.encode(block))
        out.mux(stream.encode(None))
    return path


@pytest.mark.parametrize(
    ("name", "codec", "rate"),
    [("a.mp3", "libmp3lame", 44_100), ("a.m4a", "aac", 44_100), ("a.flac", "flac", 44_100), ("a.ogg", "libopus", 48_000), ("a.wav", "pcm_s16le", 44_100)],
)  # fmt: skip
@pytest.mark.parametrize("seconds", [0.5, 2.0, 3.217])
def test_a_sound_is_as_long_as_it_is_heard(name: str, codec: str, rate: int, seconds: float, tmp_path: Path) -> None:
    """Encoders' padding before and after it isn't heard."""
    found = probe(_tone(tmp_path / name, codec, seconds, rate), 10**7)
    assert found.kind == "sound" and found.length_s == pytest.approx(seconds, abs=0.002)


@pytest.mark.parametrize(("told_ms", "shown_s"), [(0, 0.3), (5, 0.3), (10, 0.3), (20, 0.06), (100, 0.3)])
def test_frames_are_up_for_as_long_as_browsers_show_them(told_ms: int, shown_s: float, tmp_path: Path) -> None:
    frames = [Image.new("RGB", (40, 30), colour) for colour in ("#c0392b", "#2a9d8f", "#123456")]
    path = tmp_path / "a.gif"
    frames[0].save(path, save_all=True, append_images=frames[1:], duration=told_ms, loop=0)
    assert probe(path, 10**7).length_s == pytest.approx(shown_s)


def test_av1_pictures_still_and_moving(tmp_path: Path) -> None:
    frames = [Image.new("RGB", (64, 48), colour) for colour in ("#c0392b", "#2a9d8f", "#123456")]
    still, moving = tmp_path / "still.avif", tmp_path / "moving.avif"
    frames[0].save(still)
    frames[0].save(moving, save_all=True, append_images=frames[1:], duration=200)
    for path, length_s in ((still, 0), (moving, 0.6)):
        found = probe(path, 10**7)
        assert (found.kind, found.mime, found.length_s) == ("picture", "image/avif", pytest.approx(length_s))
        assert (found.width, found.height) == (64, 48) and found.poster


@pytest.mark.parametrize(("turned", "size"), [(1, (60, 20)), (3, (60, 20)), (6, (20, 60)), (8, (20, 60))])
def test_a_photo_that_lies_on_its_side_is_measured_upright(turned: int, size: tuple[int, int], tmp_path: Path) -> None:
    exif = Image.Exif()
    exif[0x0112] = turned
    path = tmp_path / "a.jpg"
    Image.new("RGB", (60, 20), "#c0392b").save(path, exif=exif)
    found = probe(path, 10**7)
    assert (found.width, found.height) == size
    with Image.open(io.BytesIO(found.poster)) as poster:
        assert poster.size == size
