"""The streamer's own voice: phrases of the book that call cues, heard by a process of its own (`voice.ear`).

The process runs while listening is switched on, or while a phrase is trained. Its microphone is open only while it
listens: always, or while a key is held. Neither sound nor words are kept; of a training only its figures are, in
``voice.json`` of the data folder.
"""

from __future__ import annotations

import asyncio
import json
import logging
import secrets
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from statistics import median
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from cuejar.core.book.book import Book
from cuejar.core.engine.night import Timed
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.kinds.table import is_spoken
from cuejar.core.measures.phones import problems
from cuejar.core.parts.folding import folded
from cuejar.core.words.values import joined
from cuejar.live.children import end_child
from cuejar.live.runner import Runner
from cuejar.platform import apart
from cuejar.starting import own_command
from cuejar.voice import MISSING, is_installed
from cuejar.voice.outline import BANDS, FAR, MOST_ROWS
from cuejar.voice.spotting import LOOSEST

log = logging.getLogger(__name__)
HELD_S = 1.5
"""How long a held key counts without being reported again."""
ECHO_S = 0.8
"""How long after a speech its echo may still be heard."""
AGAIN_S = 1.5
"""How soon the same phrase may be heard again."""
TALK_S = 60.0
SAYINGS = 3
OPEN_AGAIN_S = 3.0
"""After how long a microphone that isn't open is opened again."""
LOOKED_S = 20.0
"""How long the process runs on after a page last showed the phrases."""
STORE = "voice.json"
LINE_LIMIT = 1 << 20
MOST_WAITING, MOST_KEYS = 20, 50
UNLIKE = 1.5
"""A saying this many times as far from the others as usual is unlike them."""
Step = Literal["idle", "saying", "talking", "finding", "done"]


Row = Annotated[list[int], Field(min_length=BANDS, max_length=BANDS)]
Outline = Annotated[list[Row], Field(min_length=3, max_length=MOST_ROWS)]


class Kept(BaseModel):
    """The figures of a training (`voice.spotting.Trained`), with the speaker's mean cepstrum and the phrase's phones."""

    looseness: Annotated[float, Field(ge=0, le=LOOSEST)]
    outlines: Annotated[list[Outline], Field(min_length=1, max_length=10)]
    apart: Annotated[list[float], Field(min_length=1, max_length=10)]
    limit: Annotated[float, Field(ge=0, le=FAR)]
    cepstrum: Annotated[str, Field(max_length=1_000)] = ""
    phones: Annotated[list[str], Field(max_length=200)]


class Store(BaseModel):
    """What is kept of all trainings, by the phrase."""

    phrases: dict[str, Kept] = {}


@dataclass
class Training:
    """The training of a phrase: what it waits for, how many sayings there are, how far it is (0 to 1)."""

    phrase: str = ""
    step: Step = "idle"
    sayings: int = 0
    talked: bool = False
    talk_s: float = TALK_S
    begun: float = 0
    share: float = 0
    problem: str = ""


@dataclass
class PhraseState:
    """A phrase of the book: the cues it calls, its sounds (none: unknown words, for which some are offered), whether it is
    trained and how surely each saying was found (0 to 1), and what is wrong with it.
    """

    phrase: str
    cues: list[str]
    phones: list[str] = field(default_factory=list)
    missing: list[str] = field(default_factory=list)
    offer: str = ""
    trained: bool = False
    sure: list[float] = field(default_factory=list)
    problem: str = ""


class Listening:
    """Everything that is heard."""

    def __init__(
        self, folder: Path, runner: Runner, recording: Path | None, changed: Callable[[], None] = lambda: None
    ) -> None:
        """Args:
        recording: a sound file in place of the microphone.
        changed: is told when it begins or stops to listen.
        """
        self._file, self._runner, self._recording, self._changed = folder / STORE, runner, recording, changed
        self._book: Book | None = None
        self._process: asyncio.subprocess.Process | None = None
        self._task: asyncio.Task[None] | None = None
        self._keys: dict[str, float] = {}
        self._spoken: dict[tuple[str, str], float] = {}
        self._echo_until = 0.0
        self._heard: dict[str, float] = {}
        self._stirred = asyncio.Event()
        self._looked_at = -LOOKED_S
        self._open_again = 0.0
        self._sent: dict[str, Any] = {}
        self._waiting: list[dict[str, Any]] = []
        self._spelled: dict[str, dict[str, Any]] = {}
        self._asked_spelling: list[dict[str, str]] = []
        self.training = Training()
        self.is_open, self.level, self.problem = False, 0.0, ""
        self.microphones: list[str] = []
        self.latest = ""
        """The phrase that was heard last."""
        self._trained: dict[str, Kept] = {}
        with suppress(OSError, ValueError):  # An unreadable one is as good as none: phrases are trained again.
            self._trained = Store.model_validate_json(self._file.read_bytes()).phrases

    # The book

    def take(self, book: Book) -> None:
        self._book = book
        self._asked_spelling = [{"name": name, "sounds": sounds} for name, sounds in self._phrases().items()]
        self._begin_or_end()
        self._stirred.set()

    def _phrases(self) -> dict[str, str]:
        """Returns the phrases of the book as they are first written, each with the sounds that are written for it."""
        assert self._book is not None
        first: dict[str, str] = {}
        found: dict[str, str] = {}
        for cue in self._book.cues:
            for call in cue.calls:
                if call.kind == "said":
                    name = first.setdefault(folded(call.phrase), call.phrase)
                    found[name] = found.get(name) or call.sounds
        return found

    def _cues(self, phrase: str) -> list[str]:
        assert self._book is not None
        wanted = folded(phrase)
        return [
            cue.id
            for cue in self._book.cues
            if any(call.kind == "said" and folded(call.phrase) == wanted for call in cue.calls)
        ]

    @property
    def mode(self) -> str:
        return self._book.house.listening if self._book is not None else "off"

    def states(self) -> list[PhraseState]:
        """Returns every phrase of the book."""
        rows, phones = [], {}
        for name in self._phrases():
            spelled = self._spelled.get(name, {})
            trained = self._trained.get(folded(name))
            is_same = trained is not None and trained.phones == spelled.get("phones")
            row = PhraseState(
                name, self._cues(name), spelled.get("phones", []), spelled.get("missing", []), spelled.get("offer", ""),
                is_same, _sure(trained) if is_same and trained is not None else [], spelled.get("problem", ""),
            )  # fmt: skip
            if row.missing:
                row.problem = f"The dictionary lacks {', '.join(row.missing)}."
            if row.phones:
                phones[name] = row.phones
            rows.append(row)
        wrong = problems(phones)
        for row in rows:
            row.problem = row.problem or wrong.get(row.phrase, "")
        return rows

    def wrong(self) -> dict[str, str]:
        """Returns why phrases aren't heard, by the phrase as it is folded; those of unknown sounds aren't judged yet."""
        found = {}
        for row in self.states():
            if row.problem or (row.phones and not row.trained):
                found[folded(row.phrase)] = row.problem or "It isn’t trained yet."
        return found

    # Its process

    def _is_wanted(self) -> bool:
        return self.mode != "off" or bool(self.training.phrase) or time.monotonic() - self._looked_at < LOOKED_S

    def looked_at(self) -> None:
        """Notes that a page shows the phrases: then their sounds must be known."""
        self._looked_at = time.monotonic()
        if self._phrases():
            self._begin_or_end()

    def _begin_or_end(self) -> None:
        wanted = self._is_wanted()
        if wanted and not is_installed():
            self.problem = MISSING
            if self.training.phrase:
                self.training.problem, self.training.step = MISSING, "idle"
        elif wanted and self._task is None:
            self._task = self._runner.watch.keep("listening", self._run, self._fell)
        elif not wanted and self._task is not None:
            task, self._task = self._task, None
            self._runner.watch.once("stopping to listen", lambda: self._let_go(task))

    async def _let_go(self, task: asyncio.Task[None]) -> None:
        await self._runner.watch.let_go([task])

    def _fell(self, problem: str) -> None:
        self._is_open(False)
        self.problem = self.problem or problem.removeprefix("RuntimeError: ")

    async def stop(self) -> None:
        if self._task is not None:
            await self._runner.watch.let_go([self._task])
            self._task = None

    async def _run(self) -> None:
        """Runs the process. Raises RuntimeError: it ended by itself."""
        if self.training.step in ("saying", "talking", "finding") and not self._waiting:
            self.training.problem, self.training.step = "Listening was interrupted. Begin again.", "idle"
        more = ["--recording", str(self._recording)] if self._recording is not None else []
        process = self._process = await asyncio.create_subprocess_exec(
            *own_command("ear", *more), stdin=asyncio.subprocess.PIPE, stdout=asyncio.subprocess.PIPE,
            stderr=asyncio.subprocess.DEVNULL, limit=LINE_LIMIT, **apart(),
        )  # fmt: skip
        self._sent, self._spelled, self.problem = {}, {}, ""
        assert process.stdout is not None
        try:
            async with asyncio.TaskGroup() as group:
                telling = group.create_task(self._tell_all())
                async for line in process.stdout:
                    with suppress(ValueError, KeyError, TypeError):
                        self._told(json.loads(line))
                telling.cancel()
        finally:
            self._process = None
            self._is_open(False)
            await end_child(process)
        raise RuntimeError(self.problem or "the listening process ended")

    def _ask_soon(self, **asked: Any) -> None:
        """Asks the process once it runs, and its microphone is as it should be."""
        self._waiting = [*self._waiting, asked][-MOST_WAITING:]
        self._stirred.set()

    def _ask(self, **asked: Any) -> None:
        if self._process is not None and self._process.stdin is not None:
            self._process.stdin.write(json.dumps(asked).encode() + b"\n")

    async def _tell_all(self) -> None:
        """Brings the process in step with what is wanted, whenever that changes."""
        while True:
            self._stirred.clear()
            self._tell_now()
            if not self._is_wanted():
                self._begin_or_end()
            with suppress(TimeoutError):
                async with asyncio.timeout(0.1):
                    await self._stirred.wait()

    def _tell_now(self) -> None:
        now = time.monotonic()
        if self._asked_spelling and self._sent.get("spell") != self._asked_spelling:
            self._sent["spell"] = list(self._asked_spelling)
            self._ask(do="spell", phrases=self._asked_spelling)
        wanted = self._wanted_phrases()
        if self._sent.get("phrases") != wanted:
            self._sent["phrases"] = wanted
            self._ask(do="phrases", **wanted)
        is_open = (
            self.training.step in ("saying", "talking")
            or self.mode == "always"
            or (self.mode == "held" and self._is_held(now))
        )
        microphone = self._book.house.microphone if self._book is not None else None
        opened = {"open": is_open, "microphone": microphone if is_open else None}
        if self._sent.get("open") != opened or (is_open and not self.is_open and now >= self._open_again):
            self._open_again = now + OPEN_AGAIN_S
            self._sent["open"] = opened
            self._ask(do="open", microphone=microphone) if is_open else self._ask(do="close")
        muted = bool(self._spoken) or now < self._echo_until
        if self._sent.get("muted", False) != muted:
            self._sent["muted"] = muted
            self._ask(do="mute", on=muted)
        waiting, self._waiting = self._waiting, []
        for asked in waiting:
            self._ask(**asked)

    def _wanted_phrases(self) -> dict[str, Any]:
        rows, cepstrum = [], ""
        for state in self.states():
            trained = self._trained.get(folded(state.phrase))
            if state.trained and trained is not None:
                rows.append({
                    "name": state.phrase, "phones": state.phones,
                    "looseness": trained.looseness, "outlines": trained.outlines, "limit": trained.limit,
                })  # fmt: skip
                cepstrum = trained.cepstrum or cepstrum
        return {"phrases": rows, "cepstrum": cepstrum}

    # What it says

    def _told(self, told: Mapping[str, Any]) -> None:
        what, training = told["what"], self.training
        if what == "level":
            self.level = float(told["level"])
        elif what in ("open", "closed"):
            self._is_open(what == "open")
            self.problem = ""
        elif what == "heard":
            self._call(str(told["phrase"]))
        elif what == "spelled":
            self._spelled = {str(row["name"]): row for row in told["phrases"]}
            self._stirred.set()
        elif what == "microphones":
            self.microphones = [str(name) for name in told["names"]]
        elif what == "said" and training.step == "saying":
            training.sayings, training.step = int(told["count"]), "idle"
        elif what == "talked" and training.step == "talking":
            training.talked, training.step = True, "idle"
        elif what == "progress":
            training.share = float(told["share"])
        elif what == "trained" and training.step == "finding":
            self._keep(told)
        elif what == "problem":
            self.problem = str(told["problem"])
            if told.get("of") in ("open", "train", "say", "talk") and training.step != "idle":
                training.problem, training.step = self.problem, "idle"
            self._changed()
        self._stirred.set()

    def _is_open(self, is_open: bool) -> None:
        if self.is_open != is_open:
            self.is_open, self.level = is_open, 0.0
            self._changed()

    def _call(self, phrase: str) -> None:
        now = time.monotonic()
        if now - self._heard.get(phrase, -AGAIN_S) < AGAIN_S or self._spoken or now < self._echo_until:
            return
        self._heard[phrase] = now
        self.latest = phrase
        for cue in self._cues(phrase):
            self._runner.put(h.Pad(cue, id=f"said-{secrets.token_hex(8)}", said=True))

    # What is held, and what the stream says itself

    def hold(self, key: str, on: bool) -> None:
        """Notes that a key is held, or isn't any more; it is reported again while it is held."""
        now = time.monotonic()
        self._is_held(now)  # Drops those that weren't reported again.
        if on and (key in self._keys or len(self._keys) < MOST_KEYS):
            self._keys[key] = now
        elif not on:
            self._keys.pop(key, None)
        self._stirred.set()

    def _is_held(self, now: float) -> bool:
        self._keys = {key: at for key, at in self._keys.items() if now - at < HELD_S}
        return bool(self._keys)

    def hear(self, timed: Sequence[Timed]) -> None:
        """Hears nothing while the overlay speaks."""
        for _, order in timed:
            if isinstance(order, o.Show) and is_spoken(order):
                self._spoken[order.run, order.beat] = 0.0
                self._stirred.set()
            elif isinstance(order, o.Hide) and (order.run, order.beat) in self._spoken:
                del self._spoken[order.run, order.beat]
                self._echo_until = time.monotonic() + ECHO_S
                self._stirred.set()

    # Training

    def train(self, phrase: str) -> None:
        """Begins the training of a phrase."""
        self.training = Training(phrase)
        self._begin_or_end()
        self._ask_soon(do="forget")

    def say_again(self) -> None:
        """Records the next saying."""
        self.training.step, self.training.problem = "saying", ""
        self._ask_soon(do="say")

    def talk(self, seconds: float) -> None:
        """Records ordinary talk."""
        training = self.training
        training.step, training.problem, training.talk_s, training.begun = "talking", "", seconds, time.monotonic()
        self._ask_soon(do="talk", s=seconds)

    def find(self) -> None:
        """Finds how loosely the phrase must be heard, from what was recorded."""
        state = next((one for one in self.states() if one.phrase == self.training.phrase), None)
        self.training.step, self.training.share, self.training.problem = "finding", 0.0, ""
        self._ask_soon(do="train", phones=state.phones if state is not None else [])

    def share(self) -> float:
        """Returns how far the current step of the training is, 0 to 1."""
        training = self.training
        if training.step == "talking":
            return min(1.0, (time.monotonic() - training.begun) / training.talk_s)
        return training.share

    def end_training(self) -> None:
        """Ends it, and forgets what was recorded."""
        self._ask_soon(do="forget")
        self.training = Training()
        self._begin_or_end()

    def look(self) -> None:
        """Looks for microphones, if the process runs."""
        self._ask_soon(do="microphones")

    def _keep(self, told: Mapping[str, Any]) -> None:
        training = self.training
        training.step, training.share = "done", 1.0
        if not told["is_told"]:
            training.problem = _why_not(told["apart"])
            return
        state = next((one for one in self.states() if one.phrase == training.phrase), None)
        figures = {key: told[key] for key in ("looseness", "outlines", "apart", "limit", "cepstrum")}
        kept = Kept.model_validate({**figures, "phones": state.phones if state is not None else []})
        self._trained[folded(training.phrase)] = kept
        self._write()
        self._ask_soon(do="forget")

    def forget(self, phrase: str) -> None:
        """Forgets the training of a phrase."""
        self._trained.pop(folded(phrase), None)
        self._write()
        self._stirred.set()

    def _write(self) -> None:
        draft = self._file.with_suffix(".new")
        try:
            draft.write_text(Store(phrases=self._trained).model_dump_json(), "utf-8")
            draft.replace(self._file)
        except OSError as error:
            self.training.problem = f"It can’t be saved: {error.strerror}."


def _why_not(apart: Sequence[float | None]) -> str:
    """Returns why a training found nothing. Args: apart: as `voice.spotting.Trained` has it."""
    if unheard := [str(number) for number, one in enumerate(apart, 1) if one is None]:
        which = f"Saying {unheard[0]} wasn’t" if len(unheard) == 1 else f"Sayings {joined(unheard)} weren’t"
        return f"{which} understood. Say the phrase again, as you always do."
    known = [one for one in apart if one is not None]
    if max(known) > UNLIKE * median(known):
        return f"Saying {known.index(max(known)) + 1} is unlike the others. Say the phrase again, as you always do."
    return "It can’t be told from your ordinary talk. Choose a longer phrase."


def _sure(trained: Kept) -> list[float]:
    """Returns how surely each saying was found: how far it is from what is allowed, 0 to 1."""
    allowed = max(0.1, trained.limit)
    return [round(max(0.0, min(1.0, (allowed - one) / allowed)), 2) for one in trained.apart]
