"""The writer: one thread for all writing, so that no disk and no lock can hold up the show.

Each piece of work is one transaction that begins with the write lock (``BEGIN IMMEDIATE``) and ends on disk
(``synchronous=FULL``). A failure is a `CannotWrite` in the user's words; nothing of it is written then.

`now` is for starts and ends, `do` for the show; `until_written` retries either. What is written for every happening
goes through `plain`, as building a statement takes SQLAlchemy longer than SQLite needs to carry it out.
"""

from __future__ import annotations

import asyncio
import sqlite3
from collections.abc import Awaitable, Callable
from contextlib import suppress
from queue import SimpleQueue
from threading import Thread
from typing import TypeVar

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import DBAPIError
from tenacity import AsyncRetrying, RetryCallState, retry_if_exception_type, wait_exponential, wait_random

T = TypeVar("T")
Work = Callable[[Connection], T]
BUSY_MS = 2_000
"""How long a piece of work waits for another program that holds the database."""
FIRST_PAUSE_S, MOST_PAUSE_S = 0.1, 2.0


class CannotWrite(Exception):
    """It couldn't be written; the text says why."""


def _why(error: Exception) -> str:
    text = str(getattr(error, "orig", None) or error)
    plain = text.casefold()
    if "locked" in plain or "busy" in plain:
        return "another program is using the data folder’s database"
    if "full" in plain or "no space" in plain or "disk i/o" in plain:
        return "the disk is full or can’t be written"
    if "readonly" in plain or "read-only" in plain:
        return "the data folder can only be read"
    if "malformed" in plain or "not a database" in plain:
        return "the data folder's database is damaged; start Cue Jar again and it keeps what can be read"
    return text.splitlines()[0][:200] if text else type(error).__name__


class Writer:
    """Writes, one transaction after the other."""

    def __init__(self, engine: Engine) -> None:
        """Args:
        engine: one whose transactions begin with the write lock.
        """
        self.engine = engine
        self._line: SimpleQueue[Callable[[], None] | None] = SimpleQueue()
        self._thread: Thread | None = None

    def now(self, work: Work[T]) -> T:
        """Does a piece of work in this thread. For start and stop, when there is no show to hold up.

        Raises:
            CannotWrite.
        """
        try:
            with self.engine.begin() as connection:
                return work(connection)
        except (DBAPIError, sqlite3.Error, OSError) as error:
            raise CannotWrite(_why(error)) from error

    async def do(self, work: Work[T]) -> T:
        """Does a piece of work. Once begun it finishes, even if its caller is gone.

        Raises:
            CannotWrite.
        """
        loop = asyncio.get_running_loop()
        done: asyncio.Future[T] = loop.create_future()

        def tell(value: T | None, error: BaseException | None) -> None:
            if done.cancelled():
                return
            if error is not None:
                done.set_exception(error)
            else:
                done.set_result(value)  # type: ignore[arg-type]

        def run() -> None:
            value, error = None, None
            try:
                value = self.now(work)
            except BaseException as wrong:
                error = wrong
            with suppress(RuntimeError):  # The loop may be gone by now.
                loop.call_soon_threadsafe(tell, value, error)

        if self._thread is None:
            self._thread = Thread(target=self._run, name="writer", daemon=True)
            self._thread.start()
        self._line.put(run)
        return await done

    def _run(self) -> None:
        while (work := self._line.get()) is not None:
            work()

    def close(self) -> None:
        """Ends the thread after its current work; doesn't wait for that."""
        self._line.put(None)


async def until_written(work: Callable[[], Awaitable[T]], failed: Callable[[str], None]) -> T:
    """Awaits a piece of work, retrying with growing pauses while it can't be written; ``failed`` gets each reason."""

    def told(state: RetryCallState) -> None:
        if state.outcome is not None:
            failed(str(state.outcome.exception()))

    async def once() -> T:
        # Only functions declared asynchronous are awaited there.
        return await work()

    wait = wait_exponential(FIRST_PAUSE_S, MOST_PAUSE_S) + wait_random(0, FIRST_PAUSE_S)
    again = AsyncRetrying(retry=retry_if_exception_type(CannotWrite), wait=wait, before_sleep=told)
    return await again(once)


def plain(connection: Connection) -> sqlite3.Connection:
    """Returns SQLite's own connection behind this one, in the same transaction."""
    own = connection.connection.driver_connection
    assert isinstance(own, sqlite3.Connection)
    return own
