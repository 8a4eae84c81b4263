"""The engine: happenings in, orders out. No clock, no waiting, no I/O.

The only input is `Engine.handle`, the only output the list of orders it returns; `Engine.due` says when it wants to be
asked again even if nothing happens. Time is in whole milliseconds of the caller's clock, and never goes back.

What is due at an instant is handled in one step before the happenings of the same millisecond; then each of those in
the order they came, each a step of its own. Within a step: beats that end, beats that start, runs that finish, runs
that start (lanes in the book's order), then drops, then whoever a drop let through, and last the properties, each of
which changes at most once.

The rules themselves are in `core.rules`; `stage`, `reception`, `waiting` and `surroundings` apply them, and `calendar`
knows what is due. This module holds the order of a step, and passes on what happens.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from
from cuejar.core.engine.calendar import Calendar
from cuejar.core.engine.night import Night, Timed
from cuejar.core.engine.outcomes import Outcomes
from cuejar.core.engine.reception import Reception
from cuejar.core.engine.resolve import Jars, Resolver
from cuejar.core.engine.stage import DEPTH, Stage
from cuejar.core.engine.surroundings import Surroundings
from cuejar.core.engine.tickets import Tickets
from cuejar.core.engine.waiting import Waiting
from cuejar.core.facts import happenings as h
from cuejar.core.facts.paths import SCENE
from cuejar.core.rules.holds import Holds
from cuejar.core.rules.rig import Away
from cuejar.core.rules.score import Lengths

Hears = Callable[[Any], None]
"""Takes a happening of the class that is its key in the table."""


class Engine:
    """The parts of the engine, put together. The module's text is its contract.

    Observers use `core.engine.view`.
    """

    def __init__(
        self,
        book: Book,
        seed: int = 0,
        media: dict[str, h.MediaFacts] | None = None,
        tracing: bool = False,
        speech_grace: int = 0,
    ) -> None:
        """Args:
        media: what is in the files of the library; None counts every file of the book as present.
        tracing: whether verdicts carry the results of all checks.
        speech_grace: how much longer (ms) than estimated a speech may take that isn't ready when its turn comes.
        """
        self.night, self.calendar, holds, away = Night(), Calendar(), Holds(), Away()
        self.resolver = Resolver(book, Lengths(book, media), Jars(), holds, away, self.night, seed, speech_grace)
        self.stage = Stage(self.night, self.calendar, holds, away, self.resolver)
        self.waiting = Waiting(self.night, self.calendar, self.stage)
        self.outcomes = Outcomes(self.night, self.calendar, self.stage, self.waiting)
        self.reception = Reception(self.outcomes, tracing)
        self.stage.callee = self.reception
        self.stage.audience = self.waiting.host = self.outcomes
        self.outcomes.counting = self.reception.counting
        self.surroundings = Surroundings(self.night, holds, away, self.resolver, self.stage, media)
        self.tickets = Tickets(self.reception, away)
        self._hears = self._table()
        self._take(book)
        for path, value in self.reception.prices.properties(0):
            holds.at_rest(path, value)

    @property
    def book(self) -> Book:
        return self.resolver.book

    @property
    def now(self) -> int:
        """The instant up to which everything is done (ms)."""
        return self.night.now

    def due(self) -> int | None:
        """The next instant (ms) at which the engine wants to be asked, or None."""
        return self.calendar.next()

    def handle(self, happening: h.Happening, now: int) -> list[Timed]:
        """Handles what is due by ``now``, then the happening, in separate steps.

        Args:
            now: ms; an earlier instant than the last one counts as the last one.

        Raises:
            BookError: the happening is an invalid new book; nothing has changed then.
        """
        self._advance(now)
        self._hears[type(happening)](happening)
        self._step()
        return self.night.taken()

    def taken_out(self) -> list[Timed]:
        """Returns the orders of a step that broke off: whatever was ordered before the error still counts."""
        return self.night.taken()

    def advance(self, now: int) -> list[Timed]:
        """Handles everything due up to and including ``now`` (ms), instant by instant."""
        self._advance(now)
        return self.night.taken()

    # The order of a step

    def _advance(self, now: int) -> None:
        night, stage, reception = self.night, self.stage, self.reception
        while (at := self.calendar.come(now)) is not None:
            if at > night.now:
                night.now = at
            self.calendar.take(at)
            clocks, reception.clocks = reception.clocks, []
            if stage.due:
                stage.beats_due(night.now)
            self._step()
            for clock in clocks:
                self._hear(clock)
        if now > night.now:
            night.now = now

    def _hear(self, happening: h.Happening | h.Clock) -> None:
        self._hears[type(happening)](happening)
        self._step()

    def _step(self) -> None:
        """Finishes a step: runs that start, drops, whoever a drop let through, and the properties."""
        now, reception, waiting, around = self.night.now, self.reception, self.waiting, self.surroundings
        waiting.start(now)
        while waiting.newcomers:
            waiting.must_wait()
        if waiting.stale and waiting.drop_stale():
            waiting.start(now)
        if self.outcomes.doubtful or (reception.asks_scene and (around.scenes or SCENE in around.holds.touched)):
            self.tickets.settle()
        if around.holds.touched:
            around.flush()
        if not reception.calls.scenes:
            around.scenes.clear()
        while around.scenes:
            scene, depth = around.scenes.pop(0)
            if depth < DEPTH:
                reception.called(h.SceneShown(scene), depth=depth + 1)
                self._step()

    # Passing on what happens

    def _table(self) -> dict[type, Hears]:
        reception, stage, around = self.reception, self.stage, self.surroundings
        return {
            h.Stream: reception.streamed,
            h.Redemption: reception.redeemed,
            **dict.fromkeys((h.Chat, h.Tip, h.Follow, h.Membership, h.Raid, h.Hook), reception.called),
            h.Present: reception.points.present,
            h.GivePoints: reception.points.given,
            h.SetCount: reception.counting.set,
            h.Quiet: reception.quietened,
            h.Merge: reception.points.merged,
            h.Forget: reception.forgotten,
            h.Pad: reception.padded,
            h.Clock: reception.clocked,
            h.Try: reception.tried,
            h.Review: reception.reviewed,
            h.DropCall: reception.let_go,
            h.Move: self.waiting.moved,
            h.AllToRest: reception.all_to_rest,
            h.Release: stage.released,
            h.SpeechReady: stage.spoken,
            h.StrikeFailed: stage.strike_failed,
            h.Hand: self._handed,
            h.Rest: around.rested,
            h.Keep: around.kept,
            h.GearState: self._geared,
            h.MediaKnown: around.media_known,
            h.Folder: around.foldered,
            h.Catalogue: around.catalogued,
            h.Renamed: around.renamed,
            h.NewBook: self._new_book,
        }

    def _handed(self, hand: h.Hand) -> None:
        self.surroundings.handed(hand)
        self.reception.prices.handed(hand.path)

    def _geared(self, state: h.GearState) -> None:
        self.surroundings.geared(state)
        self.outcomes.doubtful = True

    def _take(self, book: Book) -> None:
        self.surroundings.take(book)
        self.reception.take(book)

    def _new_book(self, happening: h.NewBook) -> None:
        self._take(book_from(happening.book))
        self.reception.sort_anew()
