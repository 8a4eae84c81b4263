"""The runner: owns the engine, and nothing that can hold it up.

Happenings wait in a mailbox. All of them are written into the journal in one transaction, by a thread of its own; once
they are on disk each is passed to the engine at the instant it was written, and the orders go out. Independently, the
engine is asked whenever something falls due, whether anything can be written or not: holds end on time from memory.
Overlays come first, drivers next; the `Recorder` writes the ledger after that.

While the journal can't be written, only happenings that bring things to rest are acted on; the others wait until the
fault is gone. Whoever asked by hand is told so at once.

At start-up: the last snapshot, the later journal through the same engine with its orders suppressed, then one look
at the clock: what ran out meanwhile returns to rest, what still holds goes on with the time it has left.
"""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
import threading
from collections import Counter, deque
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any, NamedTuple, Protocol

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_json
from cuejar.core.engine.arrivals import arrived_of
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.night import Timed
from cuejar.core.engine.state import snapshot_of, without_viewer
from cuejar.core.engine.view import View
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.parts.base import BookError
from cuejar.live.clock import ShowClock
from cuejar.live.journal import Acted, Journal, Unjournalled, state_before, written_of
from cuejar.live.later import Later
from cuejar.live.recorder import Decided, Recorder
from cuejar.live.troubles import Troubles
from cuejar.live.watch import Watch
from cuejar.pauses import Pauses
from cuejar.settings import Settings
from cuejar.store.nights import blanked
from cuejar.store.writer import FIRST_PAUSE_S, MOST_PAUSE_S, CannotWrite, Writer, plain, until_written

log = logging.getLogger(__name__)
MOST_AT_ONCE = 1_000
"""The maximum number of happenings in one transaction."""
MOST_TOGETHER = 500
"""How many of many happenings are posted at once."""
MOST_IGNORED = 5_000
MOST_WAITING = 20_000
"""How many happenings may wait while nothing can be written; redemptions always may."""
RUNS_A_SNAPSHOT = 2
"""A snapshot is taken after this many entries per run, so that long lines don't make it expensive."""


TO_REST = (h.AllToRest, h.Release)
"""What is acted on even if it can't be written: it brings things to rest."""
REPLAYING = ".replaying"
"""The file that names the entry being handled again at start-up."""
WAITS = "What viewers call waits, and is done when this is right again; what is up ends on time."


class Waiting(NamedTuple):
    """A happening waiting to be written. ``patient``: it keeps waiting if that is impossible now; ``event``: identifies
    it on its wire, so that it counts once.
    """

    happening: h.Happening
    done: asyncio.Future[list[Timed]] | None
    patient: bool
    event: str | None = None


class NotNow(Exception):
    """A request by hand can't be carried out, because it can't be written down; the text says why, in the user's words."""


class Ear(Protocol):
    """Somebody who acts on orders. Must return at once."""

    def hear(self, timed: Sequence[Timed]) -> None: ...


class Runner:
    """Runs the engine, live."""

    def __init__(
        self,
        settings: Settings,
        journal: Journal,
        writer: Writer,
        watch: Watch,
        troubles: Troubles,
        changed: Callable[[], None] = lambda: None,
        decided: Decided = lambda settled, strikes: None,
        in_ledger: Callable[[list[str]], None] = lambda calls: None,
    ) -> None:
        """Args:
        changed: is told when something happened.
        decided, in_ledger: as `Recorder`.
        """
        self.settings, self.journal, self.writer = settings, journal, writer
        self.watch, self.troubles = watch, troubles
        self.ears: list[Ear] = []
        self._changed = changed
        self.clock = ShowClock()
        self.recorder = Recorder(journal, writer, troubles, decided, in_ledger)
        self.engine: Engine
        self.view: View
        self._mailbox: deque[Waiting] = deque()
        self._arrived = asyncio.Event()
        self._due = asyncio.Event()
        self._timer: asyncio.TimerHandle | None = None
        self._armed: int | None = None
        """The instant of the engine's clock for which the timer is set."""
        self._mutex = threading.Lock()
        self._stamped: int | None = None
        self._reached = 0
        self._unjournalled: list[Unjournalled] = []
        self.later = Later(writer, watch, troubles)
        self.left_out = 0
        """How many happenings found no room to wait."""
        self._ignored: dict[str, None] = {}
        self.said_out: Counter[str] = Counter()
        """How many of each kind couldn't be read or acted on."""

    # Start and stop

    def load(self, book: Book) -> None:
        """Restores the engine up to the last written entry, and writes what follows."""
        known = set(self.journal.aside)
        self.engine, again = self.journal.load(book, self.settings.seed, self.settings.data.expanduser() / REPLAYING)
        if self.journal.aside != known:
            with contextlib.suppress(CannotWrite):  # The next start works it out again.
                self.writer.now(lambda c: self.journal.keep_aside(plain(c)))
            what = "A call could not be restored when Cue Jar started, so it was skipped."
            self.troubles.has("set aside", what, "Details are in the log.")
        self.view = View(self.engine)
        self.clock = ShowClock(not_before=max(self.engine.now, self.journal.last_at))
        self.recorder.take(again)

    def start(self, book: Book, media: dict[str, h.MediaFacts]) -> None:
        """Reconciles with the clock and starts. Overlays and drivers must be listening by now."""
        first: list[h.Happening] = [h.MediaKnown(media)]
        if book_json(self.engine.book) != book_json(book):
            first.insert(0, h.NewBook(book_json(book)))
        entries = [(happening, written_of(happening), None) for happening in first]
        wrote = False
        try:
            written, at, last = self.writer.now(
                lambda c: self.journal.append(plain(c), entries, self._stamp, self.clock.wall)
            )
            self._wrote(last, len(written))
            wrote = True
            self._act([(happening, None) for happening in written if happening is not None], at, last)
            self.recorder.write_now()
        except CannotWrite as error:
            self._stamped = None
            self.troubles.has("journal", f"Nothing can be saved: {error}.", WAITS)
            self._carry([Acted(None, self.engine.advance(self.clock.now()), self._wall_off())], False)
            if not wrote:
                for happening in first:
                    self.put(happening)
        self.watch.keep("show", self._as_time_passes)
        self.watch.keep("journal", self._as_it_comes)
        self.recorder.start(self.watch)

    async def stop(self) -> None:
        """Stops, and writes what was still to be written, as far as possible."""
        await self.watch.stop("show", "journal")
        await self.recorder.stop(self.watch)
        with contextlib.suppress(CannotWrite):
            self.recorder.write_now()
            state, last, now = self._state(), self.journal.last_id, self.engine.now
            if not self._unjournalled:
                self.writer.now(lambda c: self.journal.keep_snapshot(c, _dumped(state), last, now))

    # Input

    def put(self, happening: h.Happening, event: str | None = None) -> None:
        """Puts a happening into the mailbox without waiting.

        Args:
            event: identifies it; a repeated one, even from an earlier process, is ignored.
        """
        if len(self._mailbox) >= MOST_WAITING and not isinstance(happening, (h.Redemption, h.GearState)):
            self.left_out += 1
            return
        self._mailbox.append(Waiting(happening, None, True, event))
        self._arrived.set()

    async def post(self, happening: h.Happening, patient: bool = False, event: str | None = None) -> list[Timed]:
        """Puts a happening into the mailbox and waits until it was written and handled.

        Args:
            patient: waits as long as it takes; otherwise `NotNow` reports at once that nothing can be written.
            event: identifies it; a repeated one, even from an earlier process, is ignored.

        Returns:
            The orders that it caused, and those that fell due just before it.
        """
        if "journal" in self.troubles and isinstance(happening, TO_REST):
            while self._stamped is not None:
                await asyncio.sleep(0.002)
            return self._act_unwritten(happening)
        done: asyncio.Future[list[Timed]] = asyncio.get_running_loop().create_future()
        self._mailbox.append(Waiting(happening, done, patient, event))
        self._arrived.set()
        return await done

    async def post_all(self, happenings: Sequence[h.Happening]) -> None:
        """Posts many, which are written together. Raises as `post`."""
        for i in range(0, len(happenings), MOST_TOGETHER):
            await asyncio.gather(*(self.post(one) for one in happenings[i : i + MOST_TOGETHER]))

    async def _as_it_comes(self) -> None:
        """Writes what waits, then acts on it; nothing is acted on before it is written."""
        pauses = Pauses(FIRST_PAUSE_S, MOST_PAUSE_S)
        while True:
            await self._arrived.wait()
            self._arrived.clear()
            while self._mailbox:
                batch = [self._mailbox.popleft() for _ in range(min(MOST_AT_ONCE, len(self._mailbox)))]
                try:
                    await self._write_and_act(batch)
                    pauses.reset()
                    self.troubles.gone("journal")
                except CannotWrite as error:
                    self._cannot(batch, str(error))
                    await asyncio.sleep(pauses.next())
                except BaseException:
                    self._mailbox.extendleft(
                        reversed([one for one in batch if one.done is None or not one.done.done()])
                    )
                    self._arrived.set()
                    raise

    def _cannot(self, batch: list[Waiting], why: str) -> None:
        """Rejects requests by hand; the rest goes back to the head of the queue."""
        self.troubles.has("journal", f"Nothing can be saved: {why}.", WAITS)
        for one in reversed(batch):
            if one.patient:
                self._mailbox.appendleft(one)
            elif one.done is not None and not one.done.done() and isinstance(one.happening, TO_REST):
                one.done.set_result(self._act_unwritten(one.happening))
            elif one.done is not None and not one.done.done():
                one.done.set_exception(NotNow(f"It can’t be saved: {why}. Nothing was done."))

    async def _write_and_act(self, batch: list[Waiting]) -> None:
        entries: list[tuple[h.Happening, str, str | None]] = []
        dones: list[asyncio.Future[list[Timed]] | None] = []
        for happening, done, _, event in batch:
            try:
                sound = self._sound(happening)
                entries.append((sound, written_of(sound), event))
                dones.append(done)
            except (BookError, TypeError, ValueError) as error:
                if done is not None and not done.done():
                    done.set_exception(error)
                self.leave_out(happening.kind, getattr(happening, "id", None), str(error))
        if not entries and not self._unjournalled:
            return
        before = list(self._unjournalled)
        try:
            written, at, last = await self.writer.do(
                lambda c: self.journal.append(plain(c), entries, self._stamp, self.clock.wall, before)
            )
        finally:
            self._stamped = None
            self._rearm()
        del self._unjournalled[: len(before)]
        fresh: list[tuple[h.Happening, asyncio.Future[list[Timed]] | None]] = []
        for acted, done in zip(written, dones, strict=True):
            if acted is not None:
                fresh.append((acted, done))
            elif done is not None and not done.done():
                done.set_result([])
        self._wrote(last, len(fresh) + len(before))
        self._act(fresh, at, last)
        self._perhaps_snapshot()

    def _sound(self, happening: h.Happening) -> h.Happening:
        """Returns the happening after the gate, as the journal would return it. Raises BookError."""
        viewer = getattr(happening, "viewer", None)
        most = self.engine.book.house.most_name
        if isinstance(viewer, h.Viewer) and len(viewer.name) > most:
            called: Any = happening
            happening = replace(called, viewer=replace(viewer, name=viewer.name[:most]))
        return h.sound(happening)

    def leave_out(self, kind: str, call: str | None, why: str) -> None:
        """Skips a single input that can't be read or acted on. A redemption is refunded.

        Args:
            call: its id for the ledger, if any.
        """
        log.warning("A happening of kind %s is left out: %s", kind, why)
        self.said_out[kind] += 1
        call = str(call)[: h.MOST_ID] if call else f"{kind}-left-out-{self.clock.now()}"
        verdict = o.Verdict(call, None, "ignored", "unreadable", None, why[:300], arrived=o.Arrived(kind))
        orders: list[Timed] = [(self.engine.now, verdict)]
        if kind == "redemption":
            orders.append((self.engine.now, o.Settle(call, "refunded")))
        self.recorder.take([Acted(None, orders, self._wall_off())])

    def ignore(self, happening: h.Happening, reason: str, detail: str, event: str | None = None) -> None:
        """Records a call that doesn't fire, for a reason of its own, in the ledger once."""
        if event is not None and event in self._ignored:
            return
        if event is not None:
            self._ignored[event] = None
            while len(self._ignored) > MOST_IGNORED:
                self._ignored.pop(next(iter(self._ignored)))
        call = getattr(happening, "id", None) or f"{happening.kind}-{self.clock.now()}-{len(self._ignored)}"
        cost, arrived = getattr(happening, "cost", None) or 0, arrived_of(happening)
        verdict = o.Verdict(str(call), None, "ignored", reason, None, detail, cost=cost, arrived=arrived)
        named: Any = happening
        named = replace(named, id=str(call))
        self.recorder.take([Acted(named, [(self.engine.now, verdict)], self._wall_off())])

    def _wrote(self, last: int, count: int) -> None:
        self._stamped = None
        self.journal.last_id = last
        self.journal.since_snapshot += count

    def _stamp(self) -> int:
        """Returns the instant of what is being written: the engine doesn't pass it until it is acted on."""
        with self._mutex:
            self._stamped = max(self.clock.now(), self._reached)
            return self._stamped

    # Acting

    async def _as_time_passes(self) -> None:
        """Has the engine do what falls due."""
        while True:
            self._rearm()
            await self._due.wait()
            self._due.clear()
            with self._mutex:
                now = self.clock.now() if self._stamped is None else self._stamped
                self._reached = now
            due = self.engine.due()
            if due is not None and due <= now:
                self._carry([Acted(None, self.engine.advance(now), self._wall_off())], False)
            elif self._stamped is not None:
                await asyncio.sleep(0.001)

    def _rearm(self) -> None:
        due = self.engine.due()
        if due == self._armed and due is not None:
            return
        if self._timer is not None:
            self._timer.cancel()
            self._timer = None
        self._armed = due
        if due is not None:
            loop = asyncio.get_running_loop()
            self._timer = loop.call_later(max(0.0, self.clock.monotonic(due) - loop.time()), self._fall_due)

    def _fall_due(self) -> None:
        self._timer = self._armed = None
        self._due.set()

    def _wall_off(self) -> int:
        return self.clock.wall(0)

    def _act(
        self, written: Sequence[tuple[h.Happening, asyncio.Future[list[Timed]] | None]], at: int, last: int
    ) -> None:
        """Args:
        last: the number of the last of them in the journal.
        """
        self._reached = max(self._reached, at)
        off = self._wall_off()
        batch = []
        for number, (happening, done) in enumerate(written, last - len(written) + 1):
            before = state_before(self.engine, happening)
            batch.append(Acted(happening, self._handle(happening, at, done), off, at, number, before))
        self._carry(batch, True)

    def _act_unwritten(self, happening: h.Happening) -> list[Timed]:
        """Brings things to rest although nothing can be written; it is written later, with this instant."""
        with self._mutex:
            self._reached = at = max(self.clock.now(), self._reached)
        self._unjournalled.append(Unjournalled(written_of(happening), at))
        timed = self.engine.handle(happening, at)
        self._carry([Acted(happening, timed, self._wall_off())], True)
        return timed

    def _handle(self, happening: h.Happening, at: int, done: asyncio.Future[list[Timed]] | None) -> list[Timed]:
        try:
            timed = self.engine.handle(happening, at)
        except Exception as error:
            log.exception("A happening of kind %s could not be handled.", happening.kind)
            if done is not None and not done.done():
                done.set_exception(error)
            self.leave_out(happening.kind, getattr(happening, "id", None), f"it could not be handled: {error}")
            return self.engine.taken_out()
        if done is not None and not done.done():
            done.set_result(timed)
        return timed

    def _carry(self, batch: list[Acted], came: bool) -> None:
        """Passes the engine's orders to everybody."""
        everything = [pair for acted in batch for pair in acted.timed]
        if everything:
            for ear in self.ears:
                try:
                    ear.hear(everything)
                except Exception:
                    log.exception("%s failed on an order.", type(ear).__name__)
        kept = [acted for acted in batch if acted.timed or acted.viewers() or isinstance(acted.happening, h.Stream)]
        if kept:
            self.recorder.take(kept)
        if everything or came:
            self._changed()
        self._rearm()

    # Snapshots

    def _state(self) -> dict[str, Any]:
        return snapshot_of(self.engine)

    def _perhaps_snapshot(self) -> None:
        enough = max(self.settings.snapshot_every, RUNS_A_SNAPSHOT * len(self.view.runs))
        if self.journal.since_snapshot < enough or self.watch.running("snapshot") or self._unjournalled:
            return
        self.watch.once("snapshot", self._keep_snapshot)

    async def forget(self, viewer: str) -> None:
        """Removes a viewer's name and texts everywhere, once the engine has forgotten them. Raises NotNow."""
        await self.post(h.Forget(viewer))
        await self.recorder.written()
        there = await asyncio.to_thread(
            blanked, self.journal.sessions, viewer, lambda state: without_viewer(state, viewer)
        )
        state, last, now = self._state(), self.journal.last_id, self.engine.now
        try:
            await self.writer.do(lambda c: self.journal.forget(c, viewer, _dumped(state), last, now, there))
        except CannotWrite as error:
            raise NotNow(f"It can’t be saved: {error}. Forget them again once that is fixed.") from error
        self.journal.since_snapshot = 0

    async def _keep_snapshot(self) -> None:
        """Writes the current state, retrying with growing pauses; never past what waits elsewhere."""

        async def keep() -> None:
            state, last, now = self._state(), self.journal.last_id, self.engine.now
            self.journal.since_snapshot = 0
            await self.recorder.written()  # Results that won't be handled again after it must be written first.
            await self.writer.do(lambda c: self.journal.keep_snapshot(c, _dumped(state), last, now))

        def failed(why: str) -> None:
            means = "The next start takes longer, but nothing is lost. Cue Jar keeps trying."
            self.troubles.has("snapshot", f"The show’s state can’t be saved: {why}.", means)

        await until_written(keep, failed)
        self.troubles.gone("snapshot")


def _dumped(state: dict[str, Any]) -> str:
    """Returns the state as JSON, run by run, so that the show's thread gets its turns."""
    parts = []
    for key, value in state.items():
        if key == "runs":
            text = "[" + ",".join(json.dumps(run, ensure_ascii=False) for run in value) + "]"
        else:
            text = json.dumps(value, ensure_ascii=False)
        parts.append(f"{json.dumps(key)}:{text}")
    return "{" + ",".join(parts) + "}"
