"""Loudness against another implementation of the same standard, flashes, uneven and turned films, and Convert."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import av
import numpy as np
import pyebur128
import pytest
from PIL import Image

from cuejar.core.measures import loudness
from cuejar.core.measures.flash import flashing, luminance_of, relative_luminance
from cuejar.core.measures.loudness import TruePeak, gain_db
from cuejar.media.convert import convert, plays
from cuejar.media.probe import NotTaken, probe
from tests.media.odd import write_clip, write_sound, write_stereo, write_turned, write_uneven

LIMIT = 50_000_000
DEMO = sorted(
    p for p in (Path(__file__).parents[2] / "src/cuejar/demo/files").iterdir() if p.suffix in (".ogg", ".webm")
)


def heard_by_libebur128(path: Path) -> tuple[float, float]:
    """Returns integrated loudness and true peak in dB by libebur128, a second implementation of EBU R 128."""
    with av.open(str(path)) as container:
        frames = list(container.decode(audio=0))
        rate, channels = frames[0].sample_rate, len(frames[0].layout.channels)
        to_float = av.AudioResampler("flt", frames[0].layout.name, rate)
        parts = [part.to_ndarray().reshape(-1, channels) for f in frames for part in to_float.resample(f)]
    samples = np.ascontiguousarray(np.concatenate(parts), np.float64)
    frames_there = len(samples)
    mode = pyebur128.MeasurementMode.MODE_I | pyebur128.MeasurementMode.MODE_TRUE_PEAK
    meter = pyebur128.R128State(channels, rate, mode)
    meter.add_frames(samples.ravel(), frames_there)
    peak = max(pyebur128.get_true_peak(meter, channel) for channel in range(channels))
    return pyebur128.get_loudness_global(meter), 20 * np.log10(peak)


def test_loudness_of_the_demo_sounds() -> None:
    compared = 0
    for path in DEMO:
        found = probe(path, LIMIT)
        if not found.has_sound or found.length_s < 0.5:
            continue
        lufs, peak = heard_by_libebur128(path)
        assert found.lufs == pytest.approx(lufs, abs=0.1), path.name
        assert found.peak_dbtp == pytest.approx(peak, abs=0.3), path.name
        compared += 1
    assert compared >= 4


def test_loudness_of_odd_sounds(tmp_path: Path) -> None:
    mono = probe(write_sound(tmp_path / "a", "pcm_s16le", "wav", 2.0, 8000), LIMIT)
    assert mono.lufs == pytest.approx(heard_by_libebur128(tmp_path / "a")[0], abs=0.1)
    silent = probe(write_sound(tmp_path / "b", "pcm_s16le", "wav", 1.0, level=0), LIMIT)
    assert (silent.lufs, silent.peak_dbtp) == (None, None)
    # Shorter than one measuring block: as loud as the same tone held longer.
    short = probe(write_sound(tmp_path / "c", "pcm_s16le", "wav", 0.2), LIMIT)
    long = probe(write_sound(tmp_path / "d", "pcm_s16le", "wav", 3.0), LIMIT)
    assert short.lufs is not None and long.lufs is not None
    assert short.lufs == pytest.approx(long.lufs, abs=0.3)


@pytest.mark.parametrize("length_s", [0.05, 0.333, 0.45, 0.667, 1.234, 3.0, 7.071])
def test_loudness_of_sounds_of_any_length(tmp_path: Path, length_s: float) -> None:
    """A rest after the last tenth of a second doesn't remove the whole."""
    found = probe(write_sound(tmp_path / "a", "pcm_s16le", "wav", length_s), LIMIT)
    long = heard_by_libebur128(write_sound(tmp_path / "b", "pcm_s16le", "wav", 10.0))[0]
    assert found.lufs == pytest.approx(long, abs=0.3)


def test_levelled_sounds_end_at_the_target(tmp_path: Path) -> None:
    noise = np.random.default_rng(3).normal(0, 0.02, (48_000 * 3, 2))
    before = probe(write_stereo(tmp_path / "quiet", noise), LIMIT)
    gain = gain_db(before.lufs, before.peak_dbtp, -16)
    after = probe(write_stereo(tmp_path / "louder", noise * 10 ** (gain / 20)), LIMIT)
    assert after.lufs is not None and after.peak_dbtp is not None
    assert after.peak_dbtp <= -0.9
    assert after.lufs == pytest.approx(-16, abs=0.2) or after.peak_dbtp == pytest.approx(-1, abs=0.2)
    assert gain_db(-9, 0, -16) == -7
    assert gain_db(-30, -3, -16) == 2
    assert gain_db(-20, -0.5, -16) == 0
    assert gain_db(None, None, -16) == gain_db(-9, 0, None) == 0


def blink(path: Path, ms: int, dark: int = 0, light: int = 255, part: float = 1.0) -> Path:
    """Returns an endless GIF of two pictures that differ in a part of their area."""
    first = Image.new("L", (64, 64), dark)
    second = first.copy()
    second.paste(light, (0, 0, int(64 * part), 64))
    first.save(path, "GIF", save_all=True, append_images=[second], duration=ms, loop=0)
    return path


def test_flashes(tmp_path: Path) -> None:
    fast = probe(blink(tmp_path / "fast.gif", 100), LIMIT)
    assert fast.flashes and fast.flashes[0].flashes >= 4
    assert not probe(blink(tmp_path / "slow.gif", 200), LIMIT).flashes
    assert not probe(blink(tmp_path / "faint.gif", 100, 100, 120), LIMIT).flashes
    assert not probe(blink(tmp_path / "bright.gif", 100, 235, 255), LIMIT).flashes
    assert not probe(blink(tmp_path / "corner.gif", 100, part=0.18), LIMIT).flashes
    assert probe(blink(tmp_path / "quarter.gif", 100, part=0.3), LIMIT).flashes


def test_flashes_are_told_where_they_are() -> None:
    times = np.arange(0, 10, 1 / 30)
    light = np.full((len(times), 64), 0.1)
    at = (times >= 4) & (times < 6)
    light[at] = np.where((np.arange(at.sum()) // 3 % 2 == 0)[:, None], 0.9, 0.1)
    found = flashing(times, light)
    assert len(found) == 1
    assert 3 <= found[0].from_s <= 4.1 and 5.5 <= found[0].to_s <= 7
    assert found[0].flashes == pytest.approx(5, abs=0.5)
    assert flashing(times[:1], light[:1]) == []


def test_uneven_and_turned_films(tmp_path: Path) -> None:
    uneven = probe(write_uneven(tmp_path / "uneven.webm"), LIMIT)
    assert any("uneven" in note for note in uneven.notes)
    turned = probe(write_turned(tmp_path / "turned.mp4"), LIMIT)
    assert (turned.width, turned.height) == (48, 64)
    assert any("rotated" in note for note in turned.notes)


def test_a_huge_canvas_is_not_taken(tmp_path: Path) -> None:
    Image.new("1", (30_000, 30_000)).save(tmp_path / "huge.png")
    with pytest.raises(NotTaken, match="30000 by 30000"):
        probe(tmp_path / "huge.png", LIMIT)


def test_convert(tmp_path: Path) -> None:
    film = write_clip(tmp_path / "film.mp4", "mpeg4", "mp4")
    before = probe(film, LIMIT)
    assert plays(before.format, list(before.codecs)) == "nowhere"
    after = probe(convert(tmp_path / "told", film, tmp_path / "film.webm"), LIMIT)
    assert (after.kind, after.format, after.width, after.height) == ("clip", "webm", 64, 48)
    assert after.length_s == pytest.approx(before.length_s, abs=0.15)
    assert plays(after.format, list(after.codecs)) == "everywhere"
    assert float((tmp_path / "told").read_text()) == 1

    see_through = write_clip(tmp_path / "alpha.webm", "libvpx-vp9", "webm", pixels="yuva420p")
    assert probe(see_through, LIMIT).alpha
    assert probe(convert(tmp_path / "told", see_through, tmp_path / "again.webm"), LIMIT).alpha

    song = write_sound(tmp_path / "song.wav", "pcm_s16le", "wav", 2.0, 22_050)
    opus = probe(convert(tmp_path / "told", song, tmp_path / "song.ogg"), LIMIT)
    assert (opus.kind, opus.format) == ("sound", "ogg")
    assert opus.length_s == pytest.approx(2, abs=0.05)
    broken = tmp_path / "broken.webm"
    broken.write_bytes(see_through.read_bytes()[:300])
    with pytest.raises(NotTaken):
        convert(tmp_path / "told", broken, tmp_path / "no.webm")
    assert not (tmp_path / "no.webm").exists()


@pytest.mark.parametrize("channels", [1, 2])
def test_a_peak_between_the_samples_is_found_however_the_sound_comes_in(channels: int) -> None:
    """A quarter of the rate, an eighth of a turn off: every sample is 3 dB below the peak."""
    turns = np.sin(np.pi / 2 * np.arange(4000) + np.pi / 4).astype(np.float32) * np.float32(0.5)
    samples = np.stack([turns * (1 - 0.5 * channel) for channel in range(channels)])
    assert np.abs(samples).max() == pytest.approx(0.5 * 2**-0.5, abs=1e-4)
    found = []
    for piece in (4000, 1, 7, 1024):
        peak = TruePeak()
        for begin in range(0, 4000, piece):
            peak.hear(samples[:, begin : begin + piece])
        found.append(peak.end())
    assert found == pytest.approx([found[0]] * 4, abs=1e-5)
    assert 20 * np.log10(found[0]) == pytest.approx(20 * np.log10(0.5), abs=0.3)


_STEPS = np.arange(20_000)
_NOISE = np.random.default_rng(7).standard_normal(20_000)


@pytest.mark.parametrize(
    "sound",
    [
        _NOISE,
        _NOISE * np.exp(-_STEPS / 2000),
        np.sign(np.sin(_STEPS / 99)),
        np.where(_STEPS == 19_990, 1, 0.01 * _NOISE),
    ],
    ids=["even", "dying away", "square", "a click at the end"],
)
def test_a_peak_is_the_same_whether_few_pieces_are_reckoned_or_all(
    sound: np.ndarray[Any, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    samples = (sound / 8).astype(np.float32)[None]
    peak, every = TruePeak(), TruePeak()
    peak.hear(samples)
    monkeypatch.setattr(loudness, "FEW", 10**9)  # Any piece that counts makes the whole be measured.
    monkeypatch.setattr(loudness, "MOST_GAIN", 1e9)
    every.hear(samples)
    assert peak.end() == every.end() >= np.abs(samples).max()


def test_bytes_have_the_light_of_their_shares() -> None:
    rgb = np.random.default_rng(3).integers(0, 256, (40, 3), np.uint8)
    assert luminance_of(rgb) == pytest.approx(relative_luminance(rgb / 255), abs=1e-6)
    assert luminance_of(np.array([[255, 255, 255], [0, 0, 0]], np.uint8)) == pytest.approx([1, 0])


def test_what_rings_after_the_last_sample_counts() -> None:
    peak = TruePeak()
    peak.hear(np.array([[0.0, 0.9, 0.9]], np.float32))
    before = peak.peak
    assert peak.end() > before >= np.float32(0.9)
    assert TruePeak().end() == 0
