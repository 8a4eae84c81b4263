"""A run: one firing of a cue, from being let in to its finish."""

from __future__ import annotations

import hashlib
import random
from collections.abc import Callable

from cuejar.core.facts.happenings import Viewer
from cuejar.core.parts.base import JsonObject
from cuejar.core.rules.door import Text
from cuejar.core.rules.score import LEFT_OUT, PENDING, UP, RunBeat, Score

NO_TEXT = Text()
FAR = 1 << 62
"""Later than everything."""


class Run:
    """A call that was let in, and what became of it. Times are ms of the engine's clock.

    ``behind`` is the solo that was first in the line when this one joined: until it has run, this one waits. ``head``
    keeps it at the head of its line; ``rank`` is its place in a fair line if moved by hand. ``caller`` is the viewer
    for caps and cooldowns: nobody, if another cue fired it. ``ends_at`` is when all that is up ends together with
    nothing to come; far away while that is unknown. ``lane`` is the one in which it runs. ``place`` is where it stands
    in its line (`core.line`), while it waits. ``came`` says whether anything of it was really done; ``paid`` is its
    price in points of ours, until then. ``stream`` is the number of the stream in which it was let in (0: off air).
    ``luck`` seeds its random numbers, with the book's seed. ``drawn`` is the viewer whom it has drawn last.
    """

    __slots__ = (
        "admitted_at", "beats", "behind", "call", "caller", "came", "cap_at", "depth", "drawn", "ends_at", "facts", "forced", "head", "id",
        "lane", "luck", "next_at", "number", "paid", "place", "rank", "redemption", "score", "speech_ms", "speed", "started_at",
        "stream", "text", "tried", "viewer", "wait_until",
    )  # fmt: skip

    def __init__(
        self, id: str, number: int, score: Score, call: str, redemption: str | None = None, viewer: Viewer | None = None,
        caller: Viewer | None = None,
    ) -> None:  # fmt: skip
        self.id, self.number, self.score, self.call = id, number, score, call
        self.redemption, self.viewer, self.caller = redemption, viewer, caller
        self.drawn: Viewer | None = None
        self.text = NO_TEXT
        self.facts: JsonObject = {}
        self.admitted_at = self.wait_until = self.stream = 0
        self.head = False
        self.rank: int | None = None
        self.behind: str | None = None
        self.depth = self.paid = 0
        self.tried = self.came = False
        self.speed = 1
        self.luck = ""
        self.forced: dict[str, str] = {}
        self.speech_ms: dict[str, int] = {}
        self.started_at: int | None = None
        self.cap_at: int | None = None
        self.next_at: int | None = None
        self.ends_at = FAR
        self.beats: list[RunBeat] = []
        self.lane: str | None = None
        self.place = (True, 0, 0.0, 0)

    @property
    def viewer_id(self) -> str:
        return self.viewer.id if self.viewer is not None else ""

    def whose(self, beat: RunBeat) -> Viewer | None:
        """Returns the viewer whom one of its beats is for."""
        return self.drawn if beat.spec.beat.whose == "drawn" else self.viewer

    @property
    def takes_room(self) -> bool:
        return self.score.takes_room and not self.tried

    def until(self) -> int | None:
        """Returns when the run will end as things are; None while an open beat keeps that unknown."""
        until = self.started_at or 0
        for beat in self.beats:
            if beat.state == LEFT_OUT:
                continue
            if beat.end is None:
                return None
            until = max(until, beat.end)
        return until


def is_open(run: Run) -> bool:
    """Returns whether something of a run lasts until it is released: it is up, or still to come."""
    if not run.beats:
        return any(spec.length == "open" for spec in run.score.specs)
    return any(beat.spec.length == "open" and beat.state in (PENDING, UP) for beat in run.beats)


def random_of(seed: int, run: Run, rules: int) -> Callable[[], float]:
    """Returns the random numbers of one run: the book's seed mixed with its cue and its call, so that they don't depend
    on anything else in the night. By the rules before 4 mixed with its number.
    """
    if rules < 4:
        return random.Random(seed * 1_000_003 + run.number).random
    return random.Random(f"{seed}/{run.score.id}/{run.luck}").random


def seed_of(seed: int, run: Run, beat: str) -> str:
    """Returns the seed of a draw that can be shown to anybody: it says nothing of any other draw."""
    return hashlib.sha256(f"{seed}/{run.score.id}/{run.luck}/{beat}".encode()).hexdigest()[:32]
