"""The process that listens: microphone in, phrases out. Nothing that it hears leaves it, and nothing is written down.

It is asked and answers by lines of JSON. It begins with an open microphone only when told to, and closes it when told.
"""

from __future__ import annotations

import json
import queue
import sys
import tempfile
import threading
import time
import wave
from collections import deque
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, Protocol

import numpy as np

from cuejar.core.measures.phones import from_ipa, read_phones, spelling, words_of
from cuejar.voice import MISSING, is_installed
from cuejar.voice.outline import RATE, Samples
from cuejar.voice.spotting import (
    BEFORE,
    BLOCK,
    CannotListen,
    Phrase,
    Speech,
    Spotter,
    cepstrum_of,
    dictionary,
    train,
)

Tell = Callable[[dict[str, Any]], None]
SAID_AFTER, MOST_SAID = 14, 120
"""After how many silent blocks a saying is over, and its maximum length in blocks."""
LEVEL_S = 0.1
SILENT_S = 3.0
"""After how long without any block a microphone counts as gone."""
FULL = 32_767
MOST_WAITING = 400
"""The maximum number of blocks that wait to be heard; older ones are dropped."""


class Source(Protocol):
    """Where sound comes from: calls back with blocks of samples until it is closed."""

    def close(self) -> None: ...


def microphones() -> list[str]:
    """Returns the names of the microphones of this computer. Raises CannotListen."""
    sound = _sounddevice()
    try:
        found = [str(one["name"]) for one in sound.query_devices() if one["max_input_channels"] > 0]
    except sound.PortAudioError as error:
        raise CannotListen(f"The sound system doesn’t answer: {error}") from error
    return list(dict.fromkeys(found))


def _sounddevice() -> Any:
    try:
        import sounddevice
    except ImportError as error:
        raise CannotListen(MISSING) from error
    except OSError as error:
        raise CannotListen("PortAudio is missing. Install it (on Debian: libportaudio2).") from error
    return sounddevice


class Microphone:
    def __init__(self, name: str | None, hear: Callable[[Samples], None]) -> None:
        """Raises CannotListen."""
        sound = _sounddevice()
        try:
            self._stream = sound.InputStream(
                samplerate=RATE, channels=1, dtype="int16", blocksize=BLOCK, device=name or None,
                callback=lambda data, frames, at, status: hear(data[:, 0].copy()),
            )  # fmt: skip
            self._stream.start()
        except (sound.PortAudioError, ValueError) as error:
            raise CannotListen(f"The microphone can’t be opened: {error}") from error

    def close(self) -> None:
        self._stream.close()


class Recording:
    """A WAV file (16 kHz, mono, 16 bits) in place of a microphone, as fast as it was spoken, then silence."""

    def __init__(self, path: Path, hear: Callable[[Samples], None]) -> None:
        """Raises CannotListen."""
        try:
            with wave.open(str(path)) as file:
                if (file.getframerate(), file.getnchannels(), file.getsampwidth()) != (RATE, 1, 2):
                    raise CannotListen("The recording must have 16 kHz, one channel and 16 bits.")
                self._samples = np.frombuffer(file.readframes(file.getnframes()), np.int16)
        except (OSError, EOFError, wave.Error) as error:
            raise CannotListen(f"The recording can’t be read: {error}") from error
        self._hear, self._open = hear, threading.Event()
        self._open.set()
        threading.Thread(target=self._play, daemon=True).start()

    def _play(self) -> None:
        begun, at = time.monotonic(), 0
        while self._open.is_set():
            block = self._samples[at : at + BLOCK]
            self._hear(np.pad(block, (0, BLOCK - len(block))))
            at += BLOCK
            time.sleep(max(0.0, begun + at / RATE - time.monotonic()))

    def close(self) -> None:
        self._open.clear()


class Ear:
    """What it listens for, what it records for training, and its state."""

    def __init__(self, tell: Tell, recording: Path | None, folder: Path) -> None:
        """Args:
        recording: a file in place of the microphone.
        folder: for lists of phrases.
        """
        self._tell, self._recording, self._folder = tell, recording, folder
        self._speech = Speech()
        self.heard: queue.Queue[Samples] = queue.Queue(MOST_WAITING)
        self._source: Source | None = None
        self._spotter: Spotter | None = None
        self._before: deque[Samples] = deque(maxlen=BEFORE)
        self._silent = 0
        self._muted = False
        self._taking: list[Samples] | None = None
        self._talking = 0
        self.sayings: list[Samples] = []
        self.talk: list[Samples] = []
        self._level, self._told_at, self._heard_at = 0.0, 0.0, 0.0

    # What it is asked

    def do(self, asked: dict[str, Any]) -> None:
        """Does what it is asked. Raises CannotListen, ValueError."""
        what = asked.get("do")
        if what == "open":
            self._open(asked.get("microphone"))
        elif what == "close":
            self._close()
        elif what == "phrases":
            rows = [Phrase(**row) for row in asked["phrases"]]
            self._spotter = Spotter(rows, self._folder, asked.get("cepstrum", "")) if rows else None
        elif what == "mute":
            self._mute(bool(asked["on"]))
        elif what == "say":
            self._taking = []
        elif what == "talk":
            self._talking, self.talk = round(asked["s"] * RATE / BLOCK), []
        elif what == "forget":
            self._taking, self._talking, self.sayings, self.talk = None, 0, [], []
        elif what == "train":
            self._train(asked["phones"])
        elif what == "spell":
            self._tell({"what": "spelled", "phrases": [_spelled(one) for one in asked["phrases"]]})
        elif what == "microphones":
            self._tell({"what": "microphones", "names": microphones()})

    def _open(self, name: str | None) -> None:
        self._close()
        if self._recording is not None:
            self._source = Recording(self._recording, self._hear)
        else:
            self._source = Microphone(name, self._hear)
        self._heard_at = time.monotonic()
        self._tell({"what": "open"})

    def _close(self) -> None:
        if self._source is not None:
            self._source.close()
            self._source = None
            self._tell({"what": "closed"})
        self._rest()

    def _mute(self, on: bool) -> None:
        self._muted = on
        self._rest()

    def _rest(self) -> None:
        """Forgets what was heard so far."""
        self._before.clear()
        if self._spotter is not None:
            self._spotter.start_over()

    # What it hears

    def _hear(self, samples: Samples) -> None:
        """In the source's own thread."""
        while True:
            try:
                self.heard.put_nowait(samples)
                return
            except queue.Full:
                self.heard.get_nowait()

    def next(self, wait_s: float) -> None:
        """Handles the next block of sound, if one comes in time."""
        try:
            block = self.heard.get(timeout=wait_s)
        except queue.Empty:
            if self._source is not None and time.monotonic() - self._heard_at > SILENT_S:
                self._close()
                raise CannotListen("The microphone stopped giving sound.") from None
            return
        self._heard_at = time.monotonic()
        if self._source is None:
            return
        self._show_level(block)
        if self._taking is not None:
            self._take(block, self._speech.is_in(block))
        elif self._talking:
            self._collect(block)
        elif self._spotter is not None and not self._muted:
            for name in self._spotter.hear(block):
                self._tell({"what": "heard", "phrase": name})

    def _show_level(self, block: Samples) -> None:
        self._level = max(self._level, float(np.abs(block.astype(np.int32)).max()) / FULL)
        if (now := time.monotonic()) - self._told_at >= LEVEL_S:
            self._tell({"what": "level", "level": round(min(1.0, self._level), 3)})
            self._level, self._told_at = 0.0, now

    def _take(self, block: Samples, spoken: bool) -> None:
        assert self._taking is not None
        if not self._taking:
            self._before.append(block)
            if spoken:
                self._taking, self._silent = list(self._before), 0
            return
        self._taking.append(block)
        self._silent = 0 if spoken else self._silent + 1
        if self._silent >= SAID_AFTER or len(self._taking) >= MOST_SAID:
            saying = np.concatenate(self._taking)
            self.sayings = [*self.sayings, saying][-3:]
            self._taking = None
            self._rest()
            loudest = float(np.abs(saying.astype(np.int32)).max()) / FULL
            self._tell(
                {"what": "said", "count": len(self.sayings), "s": round(len(saying) / RATE, 2), "loudest": loudest}
            )

    def _collect(self, block: Samples) -> None:
        self.talk.append(block)
        if len(self.talk) >= self._talking:
            self._talking = 0
            self._tell({"what": "talked", "s": round(len(self.talk) * BLOCK / RATE, 1)})

    def _train(self, phones: list[str]) -> None:
        if len(self.sayings) < 3 or not self.talk:
            raise CannotListen("Say the phrase three times, then talk for a while.")
        talk = np.concatenate(self.talk)
        cepstrum = cepstrum_of(talk, self._folder / "training")
        found = train(
            phones, self.sayings, talk, cepstrum, self._folder / "training",
            lambda share: self._tell({"what": "progress", "share": round(share, 2)}),
        )  # fmt: skip
        self._tell({"what": "trained", "cepstrum": cepstrum, **found._asdict()})


def _spelled(asked: dict[str, Any]) -> dict[str, Any]:
    """Returns a phrase's phones: as they are given, or by the dictionary; and an offer for words it lacks."""
    name, sounds = asked["name"], asked.get("sounds") or ""
    if sounds:
        try:
            return {"name": name, "phones": read_phones(sounds), "missing": [], "offer": ""}
        except ValueError as error:
            return {"name": name, "phones": [], "missing": [], "offer": "", "problem": f"{error}."}
    known = dictionary()
    found = spelling(name, known)
    offer = ""
    if found.missing:
        from cuejar.speech.espeak import Espeak

        rows = [known.get(word) or from_ipa(Espeak.here().ipa(word)) for word in words_of(name)]
        offer = " ".join(phone for row in rows for phone in row)
    return {"name": name, "phones": [] if found.missing else found.phones, "missing": found.missing, "offer": offer}


def _asked(lines: Iterator[str], waiting: queue.Queue[dict[str, Any] | None]) -> None:
    for line in lines:
        try:
            waiting.put(json.loads(line))
        except ValueError:
            continue
    waiting.put(None)


def listen(recording: Path | None) -> None:
    """Runs until there is nobody left to ask it."""
    lock = threading.Lock()

    def tell(told: dict[str, Any]) -> None:
        with lock:
            print(json.dumps(told), flush=True)

    with tempfile.TemporaryDirectory(prefix="cuejar-ear-") as folder:
        if not is_installed():
            tell({"what": "problem", "problem": MISSING})
            return
        ear = Ear(tell, recording, Path(folder))
        waiting: queue.Queue[dict[str, Any] | None] = queue.Queue()
        threading.Thread(target=_asked, args=[iter(sys.stdin.readline, ""), waiting], daemon=True).start()
        tell({"what": "ready"})
        while True:
            try:
                asked = waiting.get_nowait()
            except queue.Empty:
                try:
                    ear.next(0.05)
                except CannotListen as error:
                    tell({"what": "problem", "problem": str(error), "of": "open"})
                continue
            if asked is None:
                return
            try:
                ear.do(asked)
            except (CannotListen, ValueError, KeyError) as error:
                tell({"what": "problem", "problem": str(error), "of": asked.get("do", "")})
