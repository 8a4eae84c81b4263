"""eSpeak NG, through its library: words in, samples and word times out. Runs in a worker process only.

Text is passed as plain characters; the library's markup (SSML, phonemes in brackets) is switched off. Voice, rate and
pitch, which may change while it speaks, are set again for every speech.
"""

from __future__ import annotations

import ctypes
import os
import re
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

SYNCHRONOUS, CHARACTERS, UTF8 = 2, 1, 1
IPA = 2
RATE, PITCH = 1, 3
WORDS_A_MINUTE = 175
SLOWEST, FASTEST = 80, 450
WORD_EVENT, END_EVENT = 1, 0
MOST_DOTTED = 40
"""How many dotted letters are spoken together."""
_DOTTED = re.compile(r"\w\.")
_DICTIONARY = re.compile(r"^\s*dictionary\s+(\S+)", re.MULTILINE)
_LANGUAGE = re.compile(r"^\s*language\s+([^\s-]+)", re.MULTILINE)


VARIANTS = ("m1", "m2", "m3", "m4", "m5", "m6", "m7", "f1", "f2", "f3", "f4", "f5", "croak", "whisper")
"""Variants of a base voice: ``en-gb+f3``."""


class Voice(NamedTuple):
    """A base voice: its name in a book, and its language."""

    id: str
    name: str
    language: str


class Said(NamedTuple):
    """Samples from −1 to 1, shape (n,), and for each word its position in the text (characters) and its beginning in
    ms.
    """

    samples: npt.NDArray[np.float32]
    words: list[tuple[int, int, int]]


class Early(NamedTuple):
    """Gets the beginning of a speech while the rest is made: once, as soon as there are enough samples."""

    samples: int
    hear: Callable[[npt.NDArray[np.float32]], None]


class _Id(ctypes.Union):
    _fields_ = [("number", ctypes.c_int), ("name", ctypes.c_char_p), ("string", ctypes.c_char * 8)]


class _Event(ctypes.Structure):
    _fields_ = [
        ("type", ctypes.c_int),
        ("unique_identifier", ctypes.c_uint),
        ("text_position", ctypes.c_int),
        ("length", ctypes.c_int),
        ("audio_position", ctypes.c_int),
        ("sample", ctypes.c_int),
        ("user_data", ctypes.c_void_p),
        ("id", _Id),
    ]


class _Voice(ctypes.Structure):
    _fields_ = [
        ("name", ctypes.c_char_p),
        ("languages", ctypes.c_char_p),
        ("identifier", ctypes.c_char_p),
        ("gender", ctypes.c_ubyte),
        ("age", ctypes.c_ubyte),
        ("variant", ctypes.c_ubyte),
        ("xx1", ctypes.c_ubyte),
        ("score", ctypes.c_int),
        ("spare", ctypes.c_void_p),
    ]


_Callback = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.POINTER(ctypes.c_short), ctypes.c_int, ctypes.POINTER(_Event))


class CannotSpeak(Exception):
    """The library is missing, or has no such voice."""


def pieces(text: str) -> Iterator[tuple[int, str]]:
    """Returns a text in pieces with their positions, nearly always one. A long row of letters with dots is one endless
    word to the library, which has room for about a hundred of them.
    """
    begun = 0
    for count, dotted in enumerate(_DOTTED.finditer(text), 1):
        if count % MOST_DOTTED == 0 and dotted.end() < len(text):
            yield begun, text[begun : dotted.end()]
            begun = dotted.end()
    yield begun, text[begun:]


class Espeak:
    """The loaded library. There is only one in a process."""

    _only: Espeak | None = None

    def __init__(self) -> None:
        import espeakng_loader

        self._library = library = ctypes.CDLL(espeakng_loader.get_library_path())
        library.espeak_Initialize.argtypes = [ctypes.c_int, ctypes.c_int, ctypes.c_char_p, ctypes.c_int]
        library.espeak_ListVoices.restype = ctypes.POINTER(ctypes.POINTER(_Voice))
        library.espeak_Synth.argtypes = [
            ctypes.c_char_p, ctypes.c_size_t, ctypes.c_uint, ctypes.c_int, ctypes.c_uint, ctypes.c_uint,
            ctypes.c_void_p, ctypes.c_void_p,
        ]  # fmt: skip
        library.espeak_TextToPhonemes.argtypes = [ctypes.POINTER(ctypes.c_char_p), ctypes.c_int, ctypes.c_int]
        library.espeak_TextToPhonemes.restype = ctypes.c_char_p
        home = os.path.dirname(espeakng_loader.get_data_path()).encode()
        self.rate = int(library.espeak_Initialize(SYNCHRONOUS, 0, home, 0))
        if self.rate <= 0:
            raise CannotSpeak("the speech library cannot be started")
        self._data = Path(espeakng_loader.get_data_path())
        files = {voice.languages[1:].decode("utf-8", "replace"): voice.identifier for voice in self._listed()}
        self._mute = {name for name, file in files.items() if not self._has_dictionary(file.decode("utf-8", "replace"))}
        """Voices that would crash the library."""
        self._files = {name: file for name, file in files.items() if name not in self._mute}
        self._blocks: list[npt.NDArray[np.int16]] = []
        self._words: list[tuple[int, int, int]] = []
        self._early: Early | None = None
        self._failed: Exception | None = None
        self._piece = (0, 0)
        """Where the current piece begins: its position in the text, and its beginning in ms."""
        self._hear = _Callback(self._heard)
        library.espeak_SetSynthCallback(self._hear)

    @classmethod
    def here(cls) -> Espeak:
        if cls._only is None:
            cls._only = cls()
        return cls._only

    def _heard(self, samples: Any, count: int, events: Any) -> int:
        if samples and count > 0:
            self._blocks.append(np.ctypeslib.as_array(samples, (count,)).copy())
        number = 0
        while events and events[number].type != END_EVENT:
            event = events[number]
            if event.type == WORD_EVENT:
                place, begun_ms = self._piece
                self._words.append((event.text_position - 1 + place, event.length, event.audio_position + begun_ms))
            number += 1
        if self._early is not None and sum(map(len, self._blocks)) >= self._early.samples:
            early, self._early = self._early, None
            try:
                early.hear(self._so_far())
            except Exception as error:  # The library is in the call stack: the error is raised when it returns.
                self._failed = error
        return 0

    def _so_far(self) -> npt.NDArray[np.float32]:
        whole = np.concatenate(self._blocks) if self._blocks else np.zeros(0, np.int16)
        return (whole / 32768).astype(np.float32)

    def _listed(self) -> Iterator[Any]:
        listed = self._library.espeak_ListVoices(None)
        number = 0
        while listed[number]:
            yield listed[number].contents
            number += 1

    def _has_dictionary(self, identifier: str) -> bool:
        """Returns whether a voice's dictionary is there: without it the library reads foreign memory."""
        file = next((f for place in ("lang", "voices") if (f := self._data / place / identifier).is_file()), None)
        said = file.read_text("utf-8", "replace") if file is not None else ""
        found = _DICTIONARY.search(said) or _LANGUAGE.search(said)
        return found is None or (self._data / f"{found[1]}_dict").is_file()

    def voices(self) -> list[Voice]:
        """Returns every base voice of the library, by language."""
        named = (
            (v.languages[1:].decode("utf-8", "replace"), v.name.decode("utf-8", "replace")) for v in self._listed()
        )
        return sorted(
            {Voice(language, name, language) for language, name in named if language in self._files},
            key=lambda voice: voice.name,
        )

    def ipa(self, text: str, base: str = "en-us") -> str:
        """Returns how a short text is pronounced, in IPA. Raises CannotSpeak."""
        if not self._choose(base):
            raise CannotSpeak(f"there is no voice “{base}”")
        rest = ctypes.c_char_p(text.encode("utf-8"))
        parts = []
        while rest.value:
            parts.append(self._library.espeak_TextToPhonemes(ctypes.byref(rest), CHARACTERS, IPA) or b"")
        return b" ".join(parts).decode("utf-8", "replace")

    def _choose(self, base: str) -> bool:
        """Sets the voice: a language of the library, optionally with ``+`` and a variant."""
        language, plus, variant = base.partition("+")
        if language in self._mute:
            return False
        file = self._files.get(language, language.encode()) + (plus + variant).encode()
        return bool(self._library.espeak_SetVoiceByName(file) == 0)

    def say(self, text: str, base: str, rate: float, pitch: float, early: Early | None = None) -> Said:
        """Speaks one speech.

        Args:
            rate: 1 is the voice's own pace.
            pitch: 1 is the voice's own pitch.
            early: gets the beginning of the result; not for one that is shorter.

        Raises:
            CannotSpeak: there is no such voice.
        """
        if not self._choose(base):
            raise CannotSpeak(f"there is no voice “{base}”")
        pace = round(min(FASTEST, max(SLOWEST, WORDS_A_MINUTE * rate)))
        self._library.espeak_SetParameter(RATE, pace, 0)
        self._library.espeak_SetParameter(PITCH, round(min(99, max(0, 50 * pitch))), 0)
        self._blocks, self._words, self._early, self._failed = [], [], early, None
        for place, piece in pieces(text):
            self._piece = place, round(sum(map(len, self._blocks)) * 1000 / self.rate)
            content = piece.encode("utf-8")
            if self._library.espeak_Synth(content, len(content) + 1, 0, CHARACTERS, 0, UTF8, None, None) != 0:
                raise CannotSpeak("the speech library did not take the text")
            self._library.espeak_Synchronize()
            if self._failed is not None:
                raise self._failed
        return Said(self._so_far(), list(self._words))
