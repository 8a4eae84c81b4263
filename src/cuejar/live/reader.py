"""The reader: turns viewer text into speech as soon as a call is let in, and passes it to the overlays when its turn
comes.

Synthesis runs in a worker process with a time limit. If it crashes, hangs or lacks the voice, the run goes on without
its speech, and the ledger says so. Finished speech is cached, by its words and how its parts speak. If the turn of a
text has already come, its beginning plays while the rest of it is made.
"""

from __future__ import annotations

import asyncio
import contextlib
import hashlib
import itertools
import json
import logging
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Any, NamedTuple

from cuejar.core.book.book import Book, Part
from cuejar.core.engine.night import Timed
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.kinds.speech import is_known_before
from cuejar.core.kinds.table import KINDS, is_spoken
from cuejar.core.measures.mouth import openings
from cuejar.core.rules.people import own_of
from cuejar.core.rules.playscript import Speech, speeches
from cuejar.core.rules.words import speech_length_s
from cuejar.live.beginnings import Beginning
from cuejar.live.runner import Runner
from cuejar.media.workers import Workers, WorkFailed
from cuejar.platform import put, remove
from cuejar.speech.work import Made, Order, Word, synthesize, voices

log = logging.getLogger(__name__)
LIMIT_S = 20
MOST_KEPT = 400
AHEAD_S, AHEAD_FOR_A_CHARACTER_S = 1.0, 0.001
"""The length of a beginning: while it plays the rest is made, about a hundred times as fast as it is spoken."""
VERSION = 2
"""Part of every key: raised when the same words would sound different."""


class Last(NamedTuple):
    """The last text that was read, so that it can be read again."""

    cue: str
    viewer: h.Viewer | None
    text: str


@dataclass
class Piece:
    """A text as sound: its sound by key, what every part says in it, its words and levels."""

    key: str
    length_s: float
    words: list[Word] = field(default_factory=list)
    levels: list[float] = field(default_factory=list)
    speeches: list[Speech] = field(default_factory=list)
    is_whole: bool = True
    """Otherwise only its beginning is available: its length is estimated, and its words and levels come later."""

    def json(self, book: Book) -> dict[str, Any]:
        """Returns what a page needs: the sound, the words with their times, and the mouths that follow it."""
        parts = {part.id: part for part in book.cast}
        spoken = [parts[speech.part] for speech in self.speeches if speech.part in parts]
        drawn = next((part for part in spoken if len(part.mouths) > 1), None)
        pictures = list(drawn.mouths) if drawn is not None else []
        return {
            "url": f"/speech/{self.key}.wav",
            "length_s": self.length_s,
            "is_whole": self.is_whole,
            "words": [[word.text, word.begin, word.end, parts[word.part].name if word.part in parts else ""]
                      for word in self.words],
            "mouth": openings(_array(self.levels), len(pictures)) if pictures else [],
            "pictures": pictures,
            "blink": drawn.blink if drawn is not None else None,
        }  # fmt: skip


def _array(values: list[float]) -> Any:
    import numpy as np

    return np.array(values)


class Reader:
    """Everything that is read aloud."""

    def __init__(
        self, folder: Path, runner: Runner, workers: Workers, ready: Callable[[str, str], None] = lambda run, beat: None
    ) -> None:
        """Args:
        ready: is told of the run and beat whose speech can be heard, or is complete.
        """
        self._folder, self._runner, self._workers = folder, runner, workers
        self.own_voices = folder.parent / "voices"
        """Where the streamer's own voices are."""
        folder.mkdir(exist_ok=True)
        for left_over in folder.glob(".*"):
            left_over.unlink(missing_ok=True)
        self.pieces: dict[tuple[str, str], Piece] = {}
        self.beginnings: dict[str, Beginning] = {}
        """By key: what can already be heard of sounds in the making."""
        self._numbers = itertools.count(1)
        self._tasks: dict[tuple[str, str], asyncio.Task[None]] = {}
        self._delivered: set[tuple[str, str]] = set()
        self._tell_ready = ready
        self.problem = ""
        self.last: Last | None = None

    # Who says what

    def script(self, book: Book, text: str, part: str | None, viewer: h.Viewer | None) -> list[Speech]:
        """Returns who says which part of a viewer's text; their own part, if any, reads text without a name."""
        own = own_of(viewer.id, viewer.name, book.reading.viewers) if viewer is not None else None
        default = own or part or book.reading.default
        return speeches(
            text[: book.reading.most_characters], book.cast or [FALLBACK], default, viewer, book.reading.max_parts
        )

    def _orders(self, book: Book, script: Sequence[Speech]) -> list[Order]:
        parts = {part.id: part for part in (book.cast or [FALLBACK])}
        return [Order(s.part, s.said, (p := parts[s.part]).base, p.rate, p.pitch, p.volume, s.effect) for s in script]

    async def make(self, book: Book, script: list[Speech], begun: Callable[[Piece], None] | None = None) -> Piece:
        """Returns the sound of a script, new or cached.

        Args:
            begun: is waiting for it, and gets its beginning while the rest is made.

        Raises:
            WorkFailed: its worker crashed or took too long.
            Exception: a voice is missing.
        """
        orders = self._orders(book, script)
        lufs, most_s = book.house.loudness_lufs, book.reading.most_s
        told = json.dumps([VERSION, lufs, most_s, [list(order) for order in orders]])
        key = hashlib.sha256(told.encode()).hexdigest()[:32]
        sound, beside = self._folder / f"{key}.wav", self._folder / f"{key}.json"
        if sound.is_file():
            with contextlib.suppress(OSError, ValueError, KeyError, TypeError):
                known = json.loads(beside.read_text("utf-8"))
                words = [Word(*word) for word in known["words"]]
                sound.touch()
                return Piece(key, known["length_s"], words, known["levels"], script)
        arrival = self._folder / f".{key}.new"
        work = partial(self._made, script[0].said[:40], orders, arrival, lufs, most_s)
        if begun is None:
            made = await work(None)
            put(arrival, sound)
        else:
            with self._heard_early(key, orders, script, begun) as beginning:
                made = await work(beginning)
                put(arrival, sound)
                beginning.made(sound.read_bytes())
        beside.write_text(json.dumps(made._asdict(), ensure_ascii=False), "utf-8")
        return Piece(key, made.length_s, [Word(*word) for word in made.words], made.levels, script)

    @contextlib.contextmanager
    def _heard_early(
        self, key: str, orders: list[Order], script: list[Speech], begun: Callable[[Piece], None]
    ) -> Iterator[Beginning]:
        """Tells whoever waits for a sound in the making as soon as its beginning can be heard."""
        length_s = AHEAD_S + AHEAD_FOR_A_CHARACTER_S * sum(len(order.text) for order in orders)
        reckoned_s = sum(speech_length_s(order.text, order.rate) for order in orders)
        beginning = Beginning(self._folder / f".{key}.{next(self._numbers)}.first", length_s)

        async def look() -> None:
            await beginning.comes()
            self.beginnings[key] = beginning
            begun(Piece(key, reckoned_s, speeches=script, is_whole=False))

        looks = self._runner.watch.once("the beginning of a speech", look)
        try:
            yield beginning
        finally:
            looks.cancel()
            beginning.ends()
            if self.beginnings.get(key) is beginning:
                del self.beginnings[key]

    async def _made(
        self, name: str, orders: list[Order], target: Path, lufs: float | None, most_s: float, first: Beginning | None
    ) -> Made:
        """Retries once if a worker failed that may have been failing already; it begins with the same sound."""

        async def work() -> Made:
            ahead = first.ahead if first is not None else None
            return await self._workers.run(
                "speaking", name, LIMIT_S, synthesize, orders, target, lufs, self.own_voices, most_s, ahead
            )

        try:
            return await work()
        except WorkFailed as error:
            if error.why != "crash":
                raise
            return await work()

    def _tidy(self) -> None:
        """Keeps the most recently used sounds."""
        sounds = sorted(self._folder.glob("*.wav"), key=lambda path: path.stat().st_mtime, reverse=True)
        for old in sounds[MOST_KEPT:]:
            remove(old)
            remove(old.with_suffix(".json"))

    def file(self, key: str) -> Path | None:
        path = self._folder / f"{key}.wav"
        return path if key.isalnum() and path.is_file() else None

    def words(self, key: str) -> list[Word] | None:
        """Returns the words of a cached sound."""
        if self.file(key) is None:
            return None
        with contextlib.suppress(OSError, ValueError, KeyError, TypeError):
            known = json.loads((self._folder / f"{key}.json").read_text("utf-8"))
            return [Word(*word) for word in known["words"]]
        return None

    # During the show

    def start(self) -> None:
        """Makes again what is still to be heard."""
        self.take(self._runner.view.book)
        for run in self._runner.view.runs:
            for beat in run.beats:
                if not KINDS[beat.spec.kind].speaks:
                    continue
                spec: Any = beat.spec.beat
                text = beat.value if isinstance(beat.value, str) else ""
                if run.started_at is None and isinstance(spec.text, str) and is_known_before(spec):
                    text = self._runner.view.beforehand(run, spec.text)
                if run.started_at is not None:
                    self._delivered.add((run.id, beat.spec.id))
                if text:
                    self._prepare(run.id, beat.spec.id, text, spec.part)

    def take(self, book: Book) -> None:
        """Loads the library in its worker as soon as a cue reads aloud, so that the first text isn't late."""
        if ("", "warm") in self._tasks or not any(KINDS[beat.kind].speaks for cue in book.cues for beat in cue.beats):
            return
        self._tasks["", "warm"] = self._runner.watch.once("voices", self._warm)

    async def _warm(self) -> None:
        try:
            await self._workers.run("speaking", "voices", LIMIT_S, voices, self.own_voices)
        except Exception as error:
            self.problem = f"Nothing can be read aloud: {error}"

    async def stop(self) -> None:
        await self._runner.watch.let_go(list(self._tasks.values()))

    def hear(self, timed: Sequence[Timed]) -> None:
        for _, order in timed:
            if isinstance(order, o.Prepare):
                self._prepare(order.run, order.beat, order.text, order.part)
            elif isinstance(order, o.Show) and is_spoken(order):
                run = self._runner.view.run(order.run)
                if run is not None and not run.tried:
                    self.last = Last(run.score.id, run.viewer, run.text.text)
                if (order.run, order.beat) not in self._tasks:
                    self._prepare(order.run, order.beat, str(order.value), order.look.get("part"))
            elif isinstance(order, (o.Finish, o.Drop)):
                for key in [key for key in self._tasks if key[0] == order.run]:
                    self._tasks.pop(key).cancel()
                    self.pieces.pop(key, None)
                    self._delivered.discard(key)

    def _prepare(self, run: str, beat: str, text: str, part: str | None) -> None:
        task = self._runner.watch.once("reading aloud", lambda: self._read(run, beat, text, part))
        self._tasks[run, beat] = task

    async def _read(self, run_id: str, beat: str, text: str, part: str | None) -> None:
        view = self._runner.view
        run = view.run(run_id)
        viewer = run.viewer if run is not None else None
        if run is not None:
            viewer = next((run.whose(one) for one in run.beats if one.id == beat), viewer)
        script = self.script(view.book, text, part, viewer)
        failed, length, heard_since = True, 0.0, 0
        now = self._runner.clock.now

        def begun(first: Piece) -> None:
            nonlocal heard_since
            heard_since = now()
            self.pieces[run_id, beat] = first
            self._tell_ready(run_id, beat)

        is_up = any((order.run, order.beat) == (run_id, beat) for order in view.up())
        try:
            if script:
                piece = await self.make(view.book, script, begun if is_up else None)
                self.pieces[run_id, beat] = piece
                failed, length = False, piece.length_s
                if heard_since:  # From now on it lasts as long as the rest of it.
                    length = max(0.001, length - (now() - heard_since) / 1000)
        except WorkFailed as error:
            log.warning("A text could not be read aloud (%s).", error.why)
        except Exception as error:
            log.warning("A text could not be read aloud: %s", error)
        if failed:
            self.pieces.pop((run_id, beat), None)
        if (run_id, beat) not in self._delivered:
            self._delivered.add((run_id, beat))
            await self._runner.post(h.SpeechReady(run_id, beat, length, failed), patient=True)
        if not failed:
            self._tell_ready(run_id, beat)
        self._tidy()

    def ready(self, run: str, beat: str) -> dict[str, Any] | None:
        """Returns what a page needs to play a speech; none while it is being made."""
        piece = self.pieces.get((run, beat))
        return piece.json(self._runner.view.book) if piece is not None else None


FALLBACK = Part(id="voice", name="Voice", base="en-gb")
"""Reads if the cast is empty."""

__all__ = ["FALLBACK", "Piece", "Reader"]
