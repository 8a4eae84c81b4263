"""A speech worker's job: speeches into one levelled sound, with the times of its words and its levels for a mouth."""

from __future__ import annotations

import re
import sys
import wave
from bisect import bisect_right
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

from cuejar.core.measures.loudness import CEILING_DBTP, gain_db, glide
from cuejar.core.measures.mouth import FRAMES_S, levels
from cuejar.media.measure import Loudness
from cuejar.platform import put
from cuejar.speech import piper
from cuejar.speech.effects import changed
from cuejar.speech.espeak import CannotSpeak, Early, Espeak, Voice

_WORD = re.compile(r"\S+")
PAUSE_S = 0.28
"""The pause between two speeches of one text."""


class Order(NamedTuple):
    """One speech to be made: words that are safe to say, and how."""

    part: str
    text: str
    base: str
    rate: float
    pitch: float
    volume: float
    effect: str


class Ahead(NamedTuple):
    """A beginning that plays while the rest is made: its path, as a WAV, and its minimum length.

    ``sent`` (16 bit) is what was sent of it before its worker crashed; the sound begins with it this time.
    """

    path: Path
    length_s: float
    sent: bytes = b""


class Word(NamedTuple):
    """A spoken word, in ms from the beginning of the sound."""

    text: str
    begin: int
    end: int
    part: str


class Made(NamedTuple):
    """The result. ``levels`` are dB of full scale, `FRAMES_S` a second."""

    length_s: float
    words: list[Word]
    levels: list[float]


def voices(progress: Path, own: Path | None = None) -> list[Voice]:
    """Returns the streamer's own voices first, if any."""
    return [*piper.voices(own), *Espeak.here().voices()]


def _words(order: Order, events: list[tuple[int, int, int]], begin_ms: int, length_ms: int) -> list[Word]:
    """Returns the words of one speech with their times: every word of its text, in order; the voice gives only times.
    Backwards speech has them in reverse.
    """
    places = [(match.start(), match.end()) for match in _WORD.finditer(order.text)]
    starts = [*timed(places, events, length_ms), length_ms]
    out = []
    for (start, end), at, until in zip(places, starts, starts[1:], strict=False):
        a, b = (length_ms - until, length_ms - at) if order.effect == "backwards" else (at, until)
        out.append(Word(order.text[start:end], begin_ms + max(0, a), begin_ms + max(0, b), order.part))
    return out[::-1] if order.effect == "backwards" else out


def timed(places: list[tuple[int, int]], events: list[tuple[int, int, int]], length_ms: int) -> list[int]:
    """Returns when (ms) the words at these positions begin. A voice reports words that it runs together once, and
    numbers once for each part: an unreported word begins between its neighbours, by its letters.

    Args:
        events: of reported words: position in the text, length, begin in ms.
    """
    told: dict[int, int] = {}
    for place, _, at in events:
        word = bisect_right(places, (place, sys.maxsize)) - 1
        if word >= 0 and place < places[word][1]:
            told.setdefault(word, min(at, length_ms))
    told[0] = 0
    starts = [0] * len(places)
    known = [*sorted(told), len(places)]
    for here, there in zip(known, known[1:], strict=False):
        begin = max(told[here], starts[here - 1] if here else 0)
        end = max(begin, told.get(there, length_ms))
        letters = [end_ - start + 1 for start, end_ in places[here:there]]
        for word in range(here, there):
            starts[word] = begin + round((end - begin) * sum(letters[: word - here]) / sum(letters))
    return starts


def synthesize(
    progress: Path,
    orders: list[Order],
    target: Path,
    lufs: float | None,
    own: Path | None = None,
    most_s: float = 600,
    ahead: Ahead | None = None,
) -> Made:
    """Writes the speeches as one WAV (mono, 16 bit).

    Args:
        own: the folder of the streamer's own voices.
        most_s: the maximum length of the whole; the rest is cut off.
        ahead: its beginning is put there first, at the loudness of its own measurement, and the whole begins with it;
        only if
        the first speech is longer, made by the library and without an effect.

    Raises:
        CannotSpeak: a voice is missing.
    """
    espeak = Espeak.here()
    rate = espeak.rate
    parts: list[Any] = []
    words: list[Word] = []
    at = 0
    first = _Beginning(ahead, rate, lufs)
    for number, order in enumerate(orders):
        if number:
            pause = np.zeros(round(PAUSE_S * rate), np.float32)
            parts.append(pause)
            at += len(pause)
        if order.base.startswith(piper.BEGINS):
            said = piper.say(own, order.text, order.base, order.rate, order.pitch, rate)
        else:
            early = first.early(order, most_s) if number == 0 else None
            said = espeak.say(order.text, order.base, order.rate, order.pitch, early)
        sound = changed(said.samples, rate, order.effect) * np.float32(order.volume / 100)
        words += _words(order, said.words, round(at * 1000 / rate), round(len(said.samples) * 1000 / rate))
        parts.append(sound)
        at += len(sound)
        if at >= most_s * rate:
            break
    whole = np.concatenate(parts) if parts else np.zeros(0, np.float32)
    whole = whole[: round(most_s * rate)]
    words = [word for word in words if word.begin < most_s * 1000]
    if len(whole) == 0:
        raise CannotSpeak("there is nothing that can be said")
    whole = first.levelled(whole)
    _write(target, rate, first.sent + _as_16_bit(whole)[len(first.sent) :])
    found = [round(float(level), 1) for level in levels(whole, rate)]
    return Made(round(len(whole) / rate, 3), words, found)


def _as_16_bit(samples: Any) -> bytes:
    found: bytes = (np.clip(samples, -1, 1) * 32767).astype("<i2").tobytes()
    return found


def _write(target: Path, rate: int, content: bytes) -> None:
    with wave.open(str(target), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(rate)
        file.writeframes(content)


class _Beginning:
    """The beginning of a sound, which may already be playing when the whole is levelled."""

    def __init__(self, ahead: Ahead | None, rate: int, lufs: float | None) -> None:
        self._ahead, self._rate, self._lufs = ahead, rate, lufs
        self.sent = ahead.sent if ahead is not None else b""
        self._from_db: float | None = None

    def early(self, order: Order, most_s: float) -> Early | None:
        if self._ahead is None or self.sent or order.effect or self._ahead.length_s > most_s:
            return None
        return Early(round(self._ahead.length_s * self._rate), lambda samples: self._send(samples, order.volume))

    def _send(self, samples: Any, volume: float) -> None:
        assert self._ahead is not None
        sound = samples * np.float32(volume / 100)
        self._from_db = _gain_db(sound, self._rate, self._lufs)
        self.sent = _as_16_bit(sound * np.float32(10 ** (self._from_db / 20)))
        beside = self._ahead.path.with_suffix(".part")
        _write(beside, self._rate, self.sent)
        put(beside, self._ahead.path)

    def levelled(self, samples: Any) -> Any:
        """Returns the whole, gliding to its own gain from the end of its beginning."""
        db = _gain_db(samples, self._rate, self._lufs)
        if not self.sent:
            return samples * np.float32(10 ** (db / 20))
        begun = min(len(self.sent) // 2, len(samples))
        if self._from_db is None:
            self._from_db = _gain_db(samples[:begun], self._rate, self._lufs)
        return glide(samples, self._rate, begun, self._from_db, db)


def _gain_db(samples: Any, rate: int, lufs: float | None) -> float:
    if lufs is None:
        return 0.0
    loudest = float(np.abs(samples).max())
    # A voice at its maximum loudness isn't amplified, wherever its peak lies between the samples.
    full = loudest > 0 and 20 * np.log10(loudest) >= CEILING_DBTP
    meter = Loudness(peaks=not full)
    meter.hear_made(samples, rate)
    measured, peak = meter.measured()
    if full:
        peak = CEILING_DBTP
    return gain_db(measured, peak, lufs)


__all__ = ["FRAMES_S", "CannotSpeak", "Made", "Order", "Voice", "Word", "synthesize", "voices"]
