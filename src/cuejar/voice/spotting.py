"""Finds trained phrases in speech: keyword search by PocketSphinx, with the model in its package, confirmed by the outlines
of the speaker's own sayings.

Each phrase has a threshold of its own, 10 to the power of minus its *looseness*: the larger, the more is found, and the
more is found wrongly. It is loose enough for a phrase beside other talk; what it finds must then be like a saying, by a
*limit* of the phrase's own. The speaker's mean cepstrum is measured in training, as the search is blind to a voice until
it knows it.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

from cuejar.voice import MISSING
from cuejar.voice.outline import FAR, LONGER, RATE, Samples, Sayings, kept, trimmed

BLOCK = RATE * 60 // 1000
"""How many samples are heard at a time."""
BEFORE, AFTER = 5, 12
"""How many blocks before speech and after it are searched."""
TIGHTEST, LOOSEST = 2, 110
"""The bounds of looseness."""
LOOSER = 15
"""How much looser a phrase is searched than was needed for its sayings among talk."""
BEAM = 1e-100
"""What is this much less likely than the best is dropped by the search: narrower, it loses a phrase beside other talk."""
AMONG_DB = 10.0
"""How far below a saying talk lies when it is tried among talk."""
ROOM = 1 / 5
"""Which share of the room between a saying among talk and talk itself is used."""
COMPARED_EVERY = 3
"""Every how many blocks it is compared."""
LATE = 6
"""How many blocks late a phrase can be found."""
QUIET = np.zeros(RATE, np.int16)


class CannotListen(Exception):
    """Speech can't be heard here; the text says why."""


Outlines = list[list[list[int]]]


class Phrase(NamedTuple):
    """A phrase to be found: its name, its phones, its looseness; the outlines of its sayings, and how far from them it may
    be. Without outlines whatever is found counts.
    """

    name: str
    phones: Sequence[str]
    looseness: float
    outlines: Outlines = []
    limit: float = FAR


class Trained(NamedTuple):
    """What training found.

    ``is_told`` is false if the phrase can't be told from talk. ``apart`` is how far each saying is from the nearest other
    one, or none if it isn't found at all; ``limit`` how far from them a phrase may be.
    """

    is_told: bool
    looseness: float
    outlines: Outlines
    apart: list[float | None]
    limit: float


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
        Config(
            hmm=str(folder / "en-us"), dict=None, lm=None, loglevel="FATAL", logfn=None, cmn="live", beam=BEAM, pbeam=BEAM, ds=2,
            **more,
        )
    )  # fmt: skip


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
        self._phrases = {f"phrase{number}": phrase for number, phrase in enumerate(phrases)}
        self._sayings = {word: Sayings(one.outlines) for word, one in self._phrases.items() if one.outlines}
        rows = []
        for word, phrase in self._phrases.items():
            self._decoder.add_word(word, " ".join(phrase.phones), True)
            rows.append(f"{word} /1e-{phrase.looseness:g}/\n")
        folder.mkdir(parents=True, exist_ok=True)
        listed = folder / "phrases.txt"
        listed.write_text("".join(rows), "utf-8")
        self._decoder.add_kws("phrases", str(listed))
        self._decoder.activate_search("phrases")
        self._decoder.start_utt()
        self._speech = Speech()
        longest = max([BEFORE * BLOCK, *(one.span for one in self._sayings.values())])
        self._past: deque[Samples] = deque(maxlen=-(-longest // BLOCK) + LATE)
        self._silent = AFTER
        self._found = 0
        self._open: dict[str, int] = {}

    def hear(self, block: Samples) -> list[str]:
        """Returns the names of the phrases that end in a block."""
        if self._speech.is_in(block):
            if self._silent >= AFTER:
                for earlier in list(self._past)[-BEFORE:]:
                    self._search(earlier)
            self._silent = 0
        elif self._silent < AFTER:
            self._silent += 1
            if self._silent == AFTER:
                self._rest()
        self._past.append(block)
        if self._silent < AFTER:
            self._search(block)
        return self._confirmed()

    def _search(self, samples: Samples) -> None:
        self._decoder.process_raw(samples.tobytes(), False, False)
        words = [one.word.strip() for one in self._decoder.seg() or ()] if self._decoder.hyp() is not None else []
        for word in words[self._found :]:
            self._open[word] = 0
        self._found = len(words)

    def _confirmed(self) -> list[str]:
        """Returns which of the found phrases are like a saying by now."""
        names = []
        for word, blocks in list(self._open.items()):
            sayings, phrase = self._sayings.get(word), self._phrases[word]
            if sayings is None or (blocks % COMPARED_EVERY == 0 and self._distance(sayings, blocks) <= phrase.limit):
                names.append(phrase.name)
            elif blocks * BLOCK < sayings.span:  # It can be found before it ends.
                self._open[word] = blocks + 1
                continue
            del self._open[word]
        if names:
            self._past.clear()
            self._open.clear()
            self._rest()
        return names

    def _distance(self, sayings: Sayings, blocks: int) -> float:
        """Returns how far a phrase is from its sayings, the given number of blocks after it was found."""
        past = np.concatenate(self._past)
        ago = range(0, 1 if blocks else LATE + 1, COMPARED_EVERY)
        return min(sayings.distance(past[: len(past) - one * BLOCK]) for one in ago)

    def _rest(self) -> None:
        self._decoder.end_utt()
        self._decoder.start_utt()
        self._found = 0

    def start_over(self) -> None:
        """Forgets what was heard so far."""
        self._silent = AFTER
        self._past.clear()
        self._open.clear()
        self._rest()

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


def _among(saying: Samples, talk: Samples, begin: int) -> Samples:
    """Returns a saying with talk from there on `AMONG_DB` below it."""
    sound, other = saying.astype(np.float64), np.resize(np.roll(talk, -begin), len(saying)).astype(np.float64)
    share = np.sqrt(np.mean(sound**2) / max(1.0, float(np.mean(other**2))) / 10 ** (AMONG_DB / 10))
    return np.asarray(np.clip(sound + other * share, -32768, 32767), np.int16)


def _nearest(sayings: Sayings, talk: Samples) -> float:
    """Returns how far the nearest part of talk is from the sayings."""
    step = int(sayings.span / LONGER * 0.4)
    ends = range(min(sayings.span, len(talk)), len(talk) + 1, step)
    return min((sayings.distance(talk[:end]) for end in ends), default=FAR)


def train(
    phones: Sequence[str],
    sayings: Sequence[Samples],
    talk: Samples,
    cepstrum: str,
    folder: Path,
    told: Callable[[float], None] = lambda share: None,
) -> Trained:
    """Returns how a phrase is found, so that each saying is, alone and among talk, and nothing in ordinary talk is.

    Args:
        told: gets the progress, 0 to 1.
    """
    spans = [trimmed(saying) for saying in sayings]
    begins = [len(talk) * part // 9 for part in range(9)]
    among = [_among(span, talk, begin) for span, begin in zip([*spans, *spans, *spans], begins, strict=False)]

    def needed(samples: Samples) -> int:
        """Returns how loose the phrase must be to be found."""
        whole = np.concatenate([QUIET, samples, QUIET])
        return _first(
            TIGHTEST, LOOSEST, lambda n: bool(found_in(Spotter([Phrase("", phones, n)], folder, cepstrum), whole))
        )

    needs, steps = [], len(sayings) + len(among) + 2
    for number, samples in enumerate([*sayings, *among]):
        needs.append(needed(samples))
        told((number + 1) / steps)
    outlines = [kept(saying) for saying in sayings]
    others = [Sayings([*outlines[:number], *outlines[number + 1 :]]) for number in range(len(outlines))]
    apart: list[float | None] = [
        round(other.distance(span), 3) if need <= LOOSEST else None
        for other, span, need in zip(others, spans, needs, strict=False)
    ]
    looseness = float(min(LOOSEST, max(needs) + LOOSER))
    known = [one for one in apart if one is not None]
    if len(known) < len(apart):
        return Trained(False, looseness, outlines, apart, 0.0)
    wanted = max(known + [other.distance(one) for other, one in zip([*others, *others, *others], among, strict=False)])
    talked = _nearest(Sayings(outlines), talk)
    if talked <= wanted:  # Not beside others' talk, but alone it can be told.
        wanted = max(known)
    told((steps - 1) / steps)
    limit = round(wanted + (talked - wanted) * ROOM, 3)
    phrase = Phrase("", phones, looseness, outlines, limit)
    is_told = talked > wanted and not found_in(Spotter([phrase], folder, cepstrum), talk)
    told(1)
    return Trained(is_told, looseness, outlines, apart, limit)
