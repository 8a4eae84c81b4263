"""Finds trained phrases in speech: keyword search by PocketSphinx, with the model in its package.

Each phrase has a threshold of its own, 10 to the power of minus its *looseness*: the larger, the more is found, and the
more is found wrongly. The speaker's mean cepstrum is measured in training, as the search is blind to a voice until it
knows it.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from cuejar.voice import MISSING

Samples = npt.NDArray[np.int16]
RATE = 16_000
"""Samples per second, as the model wants them."""
BLOCK = RATE * 60 // 1000
"""How many samples are heard at a time."""
BEFORE, AFTER = 5, 12
"""How many blocks before speech and after it are searched."""
TIGHTEST, LOOSEST = 2, 90
"""The bounds of looseness."""
ROOM = 1 / 2
"""Which share of the room between what is needed and what would be wrong is used: what is said among other sounds needs
more than a saying alone.
"""
QUIET = np.zeros(RATE, np.int16)


class CannotListen(Exception):
    """Speech can't be heard here; the text says why."""


class Phrase(NamedTuple):
    """A phrase to be found: its name, its phones, and its looseness."""

    name: str
    phones: Sequence[str]
    looseness: float


class Trained(NamedTuple):
    """What training found.

    ``looseness`` is none if the phrase can't be told from talk; ``needs`` is how loose it must be for each saying to be
    found (above `LOOSEST`: it isn't), ``wrong_from`` how loose it may not be, as talk would be taken for it.
    """

    looseness: float | None
    needs: list[float]
    wrong_from: float


@cache
def dictionary() -> Mapping[str, tuple[str, ...]]:
    """Returns the phones of each known word. Raises CannotListen."""
    words: dict[str, tuple[str, ...]] = {}
    for line in (_model() / "cmudict-en-us.dict").read_text("utf-8").splitlines():
        word, *phones = line.split()
        if "(" not in word:
            words[word] = tuple(phones)
    return words


def _model() -> Path:
    try:
        from pocketsphinx import get_model_path
    except ImportError as error:
        raise CannotListen(MISSING) from error
    return Path(get_model_path("en-us"))


def _decoder(cepstrum: str) -> Any:
    from pocketsphinx import Config, Decoder

    more = {"cmninit": cepstrum} if cepstrum else {}
    folder = _model()
    return Decoder(
        Config(hmm=str(folder / "en-us"), dict=None, lm=None, loglevel="FATAL", logfn=None, cmn="live", **more)
    )


class Speech:
    """Tells speech from silence, block by block."""

    def __init__(self) -> None:
        from pocketsphinx import Vad

        self._vad = Vad(Vad.STRICT, RATE, 0.03)

    def is_in(self, block: Samples) -> bool:
        data, frame = block.tobytes(), self._vad.frame_bytes
        return any(self._vad.is_speech(data[i : i + frame]) for i in range(0, len(data) - frame + 1, frame))


class Spotter:
    """Listens for phrases, block by block. Silence isn't searched: it costs nothing, and doesn't change what is known of
    the voice.
    """

    def __init__(self, phrases: Sequence[Phrase], folder: Path, cepstrum: str = "") -> None:
        """Args:
            folder: where its list of phrases is written.
            cepstrum: of the speaker, as `cepstrum_of` returns it.

        Raises:
            CannotListen.
        """
        self._decoder = _decoder(cepstrum)
        self._names: dict[str, str] = {}
        rows = []
        for number, phrase in enumerate(phrases):
            word = f"phrase{number}"
            self._names[word] = phrase.name
            self._decoder.add_word(word, " ".join(phrase.phones), True)
            rows.append(f"{word} /1e-{phrase.looseness:g}/\n")
        folder.mkdir(parents=True, exist_ok=True)
        listed = folder / "phrases.txt"
        listed.write_text("".join(rows), "utf-8")
        self._decoder.add_kws("phrases", str(listed))
        self._decoder.activate_search("phrases")
        self._decoder.start_utt()
        self._speech = Speech()
        self._before: deque[Samples] = deque(maxlen=BEFORE)
        self._silent = AFTER

    def hear(self, block: Samples) -> list[str]:
        """Returns the names of the phrases that end in a block."""
        if self._speech.is_in(block):
            if self._silent >= AFTER:
                for earlier in self._before:
                    self._search(earlier)
            self._silent = 0
        elif self._silent < AFTER:
            self._silent += 1
            if self._silent == AFTER:
                self.start_over()
        self._before.append(block)
        return self._search(block) if self._silent < AFTER else []

    def _search(self, samples: Samples) -> list[str]:
        self._decoder.process_raw(samples.tobytes(), False, False)
        if self._decoder.hyp() is None:
            return []
        words = [one.word.strip() for one in self._decoder.seg()]
        found = [self._names[word] for word in words if word in self._names]
        self._decoder.end_utt()
        self._decoder.start_utt()
        return list(dict.fromkeys(found))

    def start_over(self) -> None:
        """Forgets what was heard so far."""
        self._silent = AFTER
        self._before.clear()
        self._decoder.end_utt()
        self._decoder.start_utt()

    @property
    def cepstrum(self) -> str:
        """Returns the speaker's mean cepstrum."""
        mean: str = self._decoder.get_cmn(True)
        return mean


def blocks(samples: Samples) -> Iterator[Samples]:
    for begin in range(0, len(samples), BLOCK):
        yield samples[begin : begin + BLOCK]


def found_in(spotter: Spotter, samples: Samples) -> list[str]:
    return [name for block in blocks(samples) for name in spotter.hear(block)]


def cepstrum_of(talk: Samples, folder: Path) -> str:
    """Returns the mean cepstrum of a speaker."""
    spotter = Spotter([Phrase("any", ["AH", "B", "AW", "T"], TIGHTEST)], folder)
    found_in(spotter, talk)
    spotter.start_over()
    return spotter.cepstrum


def _first(low: int, high: int, holds: Callable[[int], bool]) -> int:
    """Returns the least number from ``low`` to ``high`` for which something holds, as it does for all above; ``high + 1``
    if for none.
    """
    low_end, end = low, high + 1
    while low_end < end:
        middle = (low_end + end) // 2
        if holds(middle):
            end = middle
        else:
            low_end = middle + 1
    return end


def train(
    phones: Sequence[str],
    sayings: Sequence[Samples],
    talk: Samples,
    cepstrum: str,
    folder: Path,
    told: Callable[[float], None] = lambda share: None,
) -> Trained:
    """Returns how loose a phrase must be, so that each saying is found and nothing in ordinary talk is.

    Args:
        told: gets the progress, 0 to 1.
    """

    def is_in(samples: Samples, looseness: int) -> bool:
        spotter = Spotter([Phrase("it", phones, looseness)], folder, cepstrum)
        return bool(found_in(spotter, samples))

    needs = []
    for number, saying in enumerate(sayings):
        whole = np.concatenate([QUIET, saying, QUIET])
        needs.append(float(_first(TIGHTEST, LOOSEST, lambda n, whole=whole: is_in(whole, n))))  # type: ignore[misc]
        told(0.4 * (number + 1) / len(sayings))
    needed = max(needs)
    if needed > LOOSEST:
        return Trained(None, needs, LOOSEST + 1)
    steps = iter((0.6, 0.7, 0.8, 0.85, 0.9, 0.93, 0.96, 0.98))

    def is_wrong(looseness: int) -> bool:
        told(next(steps, 0.99))
        return is_in(talk, looseness)

    wrong_from = float(_first(int(needed), LOOSEST, is_wrong))
    told(1)
    if wrong_from <= needed:
        return Trained(None, needs, wrong_from)
    return Trained(needed + (wrong_from - 1 - needed) * ROOM // 1, needs, wrong_from)
