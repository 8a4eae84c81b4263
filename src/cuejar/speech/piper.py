"""Piper voices in ``voices/`` of the data folder, if ``piper-tts`` is installed.

A voice is a ``NAME.onnx`` with its ``NAME.onnx.json`` (or ``NAME.json``) beside it. It reports no word times: words get
a share of the sound by their letters.
"""

from __future__ import annotations

import importlib.util
import json
import re
from functools import lru_cache
from pathlib import Path
from typing import Any

import av
import numpy as np

from cuejar.speech.effects import shifted
from cuejar.speech.espeak import CannotSpeak, Said, Voice

BEGINS = "piper-"


def _beside(model: Path) -> Path | None:
    places = (model.with_name(model.name + ".json"), model.with_suffix(".json"))
    return next((path for path in places if path.is_file()), None)


def _models(folder: Path | None) -> dict[str, Path]:
    """Returns the models by voice id; none if the library isn't installed."""
    if folder is None or not folder.is_dir() or importlib.util.find_spec("piper") is None:
        return {}
    found = (path for path in sorted(folder.glob("*.onnx")) if _beside(path) is not None)
    return {BEGINS + re.sub(r"[^A-Za-z0-9_-]", "-", path.stem)[:50]: path for path in found}


def voices(folder: Path | None) -> list[Voice]:
    out = []
    for voice_id, model in _models(folder).items():
        language = ""
        try:
            told = json.loads((_beside(model) or model).read_text("utf-8"))
            language = str(told.get("language", {}).get("code") or told.get("espeak", {}).get("voice", ""))
        except (OSError, ValueError, AttributeError):
            continue
        out.append(Voice(voice_id, f"{model.stem} (yours)", language))
    return out


@lru_cache(maxsize=2)
def _loaded(model: Path, config: Path) -> Any:
    from piper import PiperVoice

    return PiperVoice.load(model, config)


def say(folder: Path | None, text: str, base: str, rate: float, pitch: float, out_rate: int) -> Said:
    """Speaks one speech, at ``out_rate`` samples a second. ``rate`` and ``pitch`` as in `espeak.Espeak.say`.

    Raises:
        CannotSpeak: there is no such voice, or it can't be loaded.
    """
    model = _models(folder).get(base)
    config = _beside(model) if model is not None else None
    if model is None or config is None:
        raise CannotSpeak(f"there is no voice “{base}”")
    from piper.config import SynthesisConfig

    try:
        made = list(_loaded(model, config).synthesize(text, SynthesisConfig(length_scale=1 / rate)))
    except Exception as error:
        raise CannotSpeak(f"the voice “{base}” can’t be used: {error}") from error
    if not made:
        return Said(np.zeros(0, np.float32), [])
    samples = np.concatenate([np.asarray(chunk.audio_float_array, np.float32).reshape(-1) for chunk in made])
    samples = _resampled(samples, int(made[0].sample_rate), out_rate)
    if pitch != 1:
        samples = shifted(samples, out_rate, 2 ** (pitch - 1))
    return Said(samples, _shares(text, round(len(samples) * 1000 / out_rate)))


def _resampled(samples: Any, rate: int, out_rate: int) -> Any:
    if rate == out_rate:
        return samples
    resampler = av.AudioResampler("flt", "mono", out_rate)
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples.reshape(1, -1)), format="flt", layout="mono")
    frame.sample_rate = rate
    out = [part.to_ndarray().reshape(-1) for part in [*resampler.resample(frame), *resampler.resample(None)]]
    return np.concatenate(out) if out else samples


def _shares(text: str, length_ms: int) -> list[tuple[int, int, int]]:
    words = [(match.start(), match.end() - match.start()) for match in re.finditer(r"\S+", text)]
    letters = sum(length + 1 for _, length in words) or 1
    out, so_far = [], 0
    for start, length in words:
        out.append((start, length, round(length_ms * so_far / letters)))
        so_far += length + 1
    return out
