"""The recorder: writes the results of orders behind the show. Each kind of writing fails on its own.

Decisions (settlements, strikes) come first: they are owed once they are written, and only sent then. Then the ledger.
Anything that can't be written waits in memory until the fault is gone; meanwhile the desk explains the consequences.
"""

from __future__ import annotations

import asyncio
import contextlib
import sqlite3
from collections.abc import Callable, Sequence

from cuejar.core.facts import orders as o
from cuejar.live import rows
from cuejar.live.journal import Acted, Journal, settles
from cuejar.live.strikes import Owed, is_outward
from cuejar.live.troubles import Troubles
from cuejar.live.watch import Watch
from cuejar.pauses import Pauses
from cuejar.store.writer import FIRST_PAUSE_S, MOST_PAUSE_S, CannotWrite, Writer, plain

LEDGER_PAUSE_S = 0.03
MOST_ENDINGS = 5_000
CAUGHT_UP_S = 2.0


def _decides(acted: Acted) -> bool:
    return any(
        isinstance(order, o.Settle) or (isinstance(order, o.Strike) and is_outward(order.kind))
        for _, order in acted.timed
    )


Decided = Callable[[list[tuple[str, str]], list[Owed]], None]


class Recorder:
    """Writes settlements, strikes, and the ledger."""

    def __init__(
        self,
        journal: Journal,
        writer: Writer,
        troubles: Troubles,
        decided_told: Decided,
        in_ledger: Callable[[list[str]], None],
    ) -> None:
        """Args:
        decided_told: gets settlements (redemption and outcome) and strikes, once they are written.
        in_ledger: gets the calls whose lines in the ledger are new or changed.
        """
        self._journal, self._writer, self._troubles = journal, writer, troubles
        self._tell_decided, self._tell_ledger = decided_told, in_ledger
        self._undecided: list[Acted] = []
        self._unrecorded: list[Acted] = []
        self._confirmed: list[tuple[str, str]] = []
        self._struck: list[tuple[str, str, str]] = []
        self._stirred, self._lines = asyncio.Event(), asyncio.Event()
        self._taken = self._decided_to = self._recorded_to = 0
        """How many batches were taken, and up to which one everything is written."""

    def take(self, batch: Sequence[Acted]) -> None:
        """Takes orders whose results are to be written."""
        self._unrecorded += batch
        self._lines.set()
        self._taken += len(batch)
        decided = [acted for acted in batch if _decides(acted)]
        if decided:
            self._undecided += decided
        self._stirred.set()

    def confirmed(self, redemption: str, problem: str) -> None:
        """Notes that the channel accepted a settlement, or never will."""
        self._confirmed.append((redemption, problem))
        self._stirred.set()

    def struck(self, owed: Owed, state: str, problem: str) -> None:
        """Notes the result of a strike."""
        self._struck.append((owed.id, state, problem))
        self._stirred.set()

    def start(self, watch: Watch) -> None:
        watch.keep("what was decided", self._keep_decided)
        watch.keep("ledger", self._keep_ledger)

    async def stop(self, watch: Watch) -> None:
        await watch.stop("what was decided", "ledger")

    def write_now(self) -> None:
        """Writes everything that waits, in this thread. Raises CannotWrite."""
        decided, self._undecided = self._undecided, []
        lines, self._unrecorded = self._unrecorded, []
        endings = (self._confirmed, self._struck)
        self._confirmed, self._struck = [], []
        try:
            self._writer.now(lambda c: self._decide(plain(c), decided, *endings))
            self._writer.now(lambda c: self._journal.record(plain(c), lines))
            self._decided_to = self._recorded_to = self._taken
        except CannotWrite:
            self._undecided, self._unrecorded = decided + self._undecided, lines + self._unrecorded
            self._confirmed, self._struck = endings[0] + self._confirmed, endings[1] + self._struck
            raise

    def _decide(
        self,
        connection: sqlite3.Connection,
        decided: list[Acted],
        confirmed: list[tuple[str, str]],
        struck: list[tuple[str, str, str]],
    ) -> None:
        if decided:
            self._journal.decide(connection, decided)
        if confirmed:
            rows.confirm(connection, confirmed)
        if struck:
            rows.struck(connection, struck)

    async def written(self) -> None:
        """Waits until everything taken so far is written, however long that takes."""
        taken = self._taken
        while self._decided_to < taken or self._recorded_to < taken:
            await asyncio.sleep(0.01)

    async def caught_up(self) -> None:
        """Waits until everything taken so far is written; not long, as it may be impossible just now."""
        with contextlib.suppress(TimeoutError):
            async with asyncio.timeout(CAUGHT_UP_S):
                await self.written()

    async def _keep_decided(self) -> None:
        pauses = Pauses(FIRST_PAUSE_S, MOST_PAUSE_S)
        while True:
            await self._stirred.wait()
            self._stirred.clear()
            taken = self._taken
            decided, self._undecided = self._undecided, []
            confirmed, self._confirmed = self._confirmed[:MOST_ENDINGS], self._confirmed[MOST_ENDINGS:]
            struck, self._struck = self._struck[:MOST_ENDINGS], self._struck[MOST_ENDINGS:]
            written = False
            try:
                if decided or confirmed or struck:
                    await self._writer.do(
                        lambda c, d=decided, k=confirmed, s=struck: self._decide(plain(c), d, k, s)  # type: ignore[misc]
                    )
                written = True
            except CannotWrite as error:
                means = "Redemptions are settled and replies, taps and hooks sent once this is fixed."
                self._troubles.has("decided", f"Decisions can’t be saved: {error}.", means)
            finally:
                if not written:
                    self._undecided = decided + self._undecided
                    self._confirmed, self._struck = confirmed + self._confirmed, struck + self._struck
            if not written:
                self._stirred.set()
                await asyncio.sleep(pauses.next())
                continue
            self._decided_to = taken
            pauses.reset()
            self._troubles.gone("decided")
            if decided:
                owed = [(settle.redemption, settle.as_) for _, settle in settles(decided)]
                self._tell_decided(owed, self._journal.strikes(decided))
            if confirmed:
                self._tell_ledger([redemption for redemption, _ in confirmed])
            if self._confirmed or self._struck:
                self._stirred.set()

    async def _keep_ledger(self) -> None:
        """Writes the ledger behind the show, many orders at a time. It can be rewritten from the journal."""
        pauses, pause = Pauses(FIRST_PAUSE_S, MOST_PAUSE_S), LEDGER_PAUSE_S
        while True:
            await self._lines.wait()
            await asyncio.sleep(pause)
            self._lines.clear()
            batch, self._unrecorded, taken = self._unrecorded, [], self._taken
            if not batch:
                self._recorded_to = taken
                continue
            touched: list[str] | None = None
            try:
                touched = await self._writer.do(lambda c, b=batch: self._journal.record(plain(c), b))  # type: ignore[misc]
            except CannotWrite as error:
                means = "Calls still run and are settled; their ledger lines follow once this is fixed."
                self._troubles.has("ledger", f"The ledger can’t be saved: {error}.", means)
            finally:
                if touched is None:
                    self._unrecorded = batch + self._unrecorded
                    self._lines.set()
            if touched is None:
                pause = pauses.next()
                continue
            pause, self._recorded_to = LEDGER_PAUSE_S, taken
            pauses.reset()
            self._troubles.gone("ledger")
            self._tell_ledger(touched)
