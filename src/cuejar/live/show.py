"""The show: one task that owns the engine, and nothing that can hold it up.

Happenings wait in a mailbox. The task takes all that are there, writes them into the journal in one transaction, hands
each to the engine, and sends the orders out; then it sleeps until something comes or the engine's next due instant.
Overlays hear first, drivers next, the ledger is written after that, and the desk is told what it shows.

On the way up: the last snapshot, the journal after it through the same engine with its orders suppressed, then one look
at the clock: what ran out meanwhile returns to rest, what still holds goes on with the time it has left.
"""

from __future__ import annotations

import asyncio
import logging
from collections import deque
from collections.abc import Callable, Sequence
from typing import Protocol

from sqlalchemy.orm import Session, sessionmaker

from cuejar.core import happenings as h
from cuejar.core import orders as o
from cuejar.core.book import Book, book_json
from cuejar.core.engine import Engine, Timed
from cuejar.live.clock import Clock
from cuejar.live.hub import Hub
from cuejar.live.journal import Journal
from cuejar.settings import Settings

log = logging.getLogger(__name__)
LEDGER_PAUSE_S = 0.03
Waiting = tuple[h.Happening, "asyncio.Future[list[Timed]] | None"]


class Ear(Protocol):
    """Somebody who acts on orders. Must return at once."""

    def hear(self, timed: Sequence[Timed]) -> None: ...


class Show:
    """The running show."""

    def __init__(self, settings: Settings, sessions: sessionmaker[Session], hub: Hub) -> None:
        self.settings, self.hub = settings, hub
        self.journal = Journal(sessions)
        self.ears: list[Ear] = []
        self.on_ledger: Callable[[list[str]], None] = lambda calls: None
        self.on_change: Callable[[], None] = lambda: None
        self.clock = Clock()
        self.engine: Engine
        self._mailbox: deque[Waiting] = deque()
        self._wake = asyncio.Event()
        self._task: asyncio.Task[None] | None = None
        self._timer: asyncio.TimerHandle | None = None
        self._unrecorded: list[tuple[h.Happening | None, list[Timed]]] = []

    def load(self, book: Book) -> None:
        """Brings the engine back to where it was, up to the last thing that was written down."""
        self.engine = self.journal.load(book, self.settings.seed)
        self.clock = Clock(not_before=max(self.engine.now, self.journal.last_at))

    def start(self, book: Book, media: dict[str, h.MediaFacts]) -> None:
        """Reconciles with the clock and starts the task. Overlays and drivers must be listening by now."""
        if book_json(self.engine.book) != book_json(book):
            self.put(h.NewBook(book_json(book)))
        self.put(h.MediaKnown(media))
        self._round()
        self._task = asyncio.create_task(self._run(), name="show")
        self._ledger = asyncio.create_task(self._keep_ledger(), name="ledger")

    async def stop(self) -> None:
        if self._task is not None:
            self._task.cancel()
            self._ledger.cancel()
            await asyncio.gather(self._task, self._ledger, return_exceptions=True)
            self._record()
            self.journal.snapshot(self.engine)

    def put(self, happening: h.Happening) -> None:
        """Puts a happening into the mailbox and does not wait."""
        self._mailbox.append((happening, None))
        self._wake.set()

    async def post(self, happening: h.Happening) -> list[Timed]:
        """Puts a happening into the mailbox and waits until it was written down and handled.

        Returns:
            The orders that it caused, and those that fell due just before it.
        """
        done: asyncio.Future[list[Timed]] = asyncio.get_running_loop().create_future()
        self._mailbox.append((happening, done))
        self._wake.set()
        return await done

    async def _run(self) -> None:
        while True:
            due = self.engine.due()
            if not self._mailbox:
                self._wake.clear()
                if due is not None:
                    loop = asyncio.get_running_loop()
                    delay = max(0.0, self.clock.monotonic(due) - loop.time())
                    self._timer = loop.call_later(delay, self._wake.set)
                await self._wake.wait()
                if self._timer is not None:
                    self._timer.cancel()
            self._round()
            await asyncio.sleep(0)

    def _round(self) -> None:
        """One turn: all that waits, or what fell due."""
        waiting = list(self._mailbox)
        self._mailbox.clear()
        now = self.clock.now()
        batch: list[tuple[h.Happening | None, list[Timed]]] = []
        if waiting:
            try:
                written = self.journal.append([happening for happening, _ in waiting], now)
            except Exception as error:
                log.exception("The journal cannot be written; nothing was acted on.")
                for _, done in waiting:
                    if done is not None and not done.done():
                        done.set_exception(error)
                return
            for happening, (_, done) in zip(written, waiting, strict=True):
                timed = self._handle(happening, now, done)
                batch.append((happening, timed))
        else:
            batch.append((None, self.engine.advance(now)))
        everything = [pair for _, timed in batch for pair in timed]
        fresh = [pair for pair in everything if not self._too_late(pair, now)]
        for ear in self.ears:
            ear.hear(fresh)
        if everything:
            self._unrecorded += batch
        if everything or waiting:
            self.on_change()
        if self.journal.since_snapshot >= self.settings.snapshot_every:
            self._record()
            self.journal.snapshot(self.engine)

    async def _keep_ledger(self) -> None:
        """Writes the ledger behind the show, many orders at a time. It can be written again from the journal."""
        while True:
            await asyncio.sleep(LEDGER_PAUSE_S)
            try:
                self._record()
            except Exception:
                log.exception("The ledger cannot be written; it is tried again.")

    def _record(self) -> None:
        batch, self._unrecorded = self._unrecorded, []
        if batch:
            try:
                self.on_ledger(self.journal.record(batch))
            except Exception:
                self._unrecorded = batch + self._unrecorded
                raise

    def _handle(self, happening: h.Happening, now: int, done: asyncio.Future[list[Timed]] | None) -> list[Timed]:
        try:
            timed = self.engine.handle(happening, now)
        except Exception as error:
            log.exception("A happening of kind %s could not be handled.", happening.kind)
            if done is not None and not done.done():
                done.set_exception(error)
            return []
        if done is not None and not done.done():
            done.set_result(timed)
        return timed

    def _too_late(self, pair: Timed, now: int) -> bool:
        """A strike that fell due while Cue Jar was away is never done late."""
        at, order = pair
        return isinstance(order, o.Strike) and now - at > self.settings.stale_strike_s * 1000
